import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';

const derive = promisify<string, Buffer, number, Buffer>(scrypt);
const bytes = 32;

/** Returns a password as `salt:hash`, by scrypt (RFC 7914). */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `${salt.toString('base64')}:${(await derive(password, salt, bytes)).toString('base64')}`;
}

export async function passwordMatches(password: string, stored: string): Promise<boolean> {
  const [salt = '', hash = ''] = stored.split(':');
  const wanted = Buffer.from(hash, 'base64');
  const given = await derive(password, Buffer.from(salt, 'base64'), bytes);
  return wanted.length === given.length && timingSafeEqual(wanted, given);
}
