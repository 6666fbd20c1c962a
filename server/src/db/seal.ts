import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';

/** The first byte of what is sealed in the form of now; what was sealed before it begins with chance. */
const form = 2;

interface Key {
  readonly bytes: Buffer;
  /** Four bytes by which a key is told from another. They are of its hash, and say nothing of it. */
  readonly version: Buffer;
}

function keyOf(base64: string): Key {
  const bytes = Buffer.from(base64, 'base64');
  if (bytes.length !== 32) throw new Error('SEAL_KEY must be 32 bytes in base64.');
  return {
    bytes,
    version: createHash('sha256').update('vast-knot seal').update(bytes).digest().subarray(0, 4),
  };
}

/**
 * Seals secrets with AES-256-GCM, so that the database alone does not give them away. What is sealed belongs to one place (`about`, such as
 * `system freight-desk token`), by associated data: put into another it opens no more. It says with which key it was sealed, so that keys
 * can be changed: the first seals, all of them open.
 */
export class Seal {
  private readonly key: Key;
  private readonly keys: readonly Key[];

  constructor(base64Key: string, ...former: readonly string[]) {
    this.key = keyOf(base64Key);
    this.keys = [this.key, ...former.map(keyOf)];
  }

  seal(text: string, about: string): Buffer {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.key.bytes, nonce).setAAD(Buffer.from(about, 'utf8'));
    const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return Buffer.concat([Buffer.of(form), this.key.version, nonce, cipher.getAuthTag(), sealed]);
  }

  /** @throws when the bytes were sealed with another key or for another place, or have been changed. */
  open(bytes: Buffer, about: string): string {
    const key =
      bytes[0] === form ? this.keys.find(({ version }) => version.equals(bytes.subarray(1, 5))) : undefined;
    if (key) {
      try {
        return opened(key, bytes.subarray(5), Buffer.from(about, 'utf8'));
      } catch {
        // Chance made the bytes of the form before look like those of this one, or nothing opens them.
      }
    }
    return this.openFormer(bytes);
  }

  /** Returns whether something is sealed with the key that seals now, in the form of now. */
  isPresent(bytes: Buffer): boolean {
    return bytes[0] === form && this.key.version.equals(bytes.subarray(1, 5));
  }

  /** Opens what was sealed before there were places and versions of keys. */
  private openFormer(bytes: Buffer): string {
    for (const key of this.keys) {
      try {
        return opened(key, bytes, Buffer.alloc(0));
      } catch {
        // It was sealed with another key.
      }
    }
    throw new Error('This was sealed with another key, or for another place.');
  }
}

function opened({ bytes: key }: Key, bytes: Buffer, about: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, 12));
  decipher.setAAD(about).setAuthTag(bytes.subarray(12, 28));
  return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString('utf8');
}
