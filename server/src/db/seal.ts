import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';

/** Seals secrets with AES-256-GCM, so that the database alone does not give them away. */
export class Seal {
  private readonly key: Buffer;

  constructor(base64Key: string) {
    this.key = Buffer.from(base64Key, 'base64');
    if (this.key.length !== 32) throw new Error('SEAL_KEY must be 32 bytes in base64.');
  }

  seal(text: string): Buffer {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce);
    const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
  }

  /** @throws when the bytes were sealed with another key or have been changed. */
  open(bytes: Buffer): string {
    const decipher = createDecipheriv('aes-256-gcm', this.key, bytes.subarray(0, 12));
    decipher.setAuthTag(bytes.subarray(12, 28));
    return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString('utf8');
  }
}
