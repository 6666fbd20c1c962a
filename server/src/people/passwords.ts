import { hash, verify } from '@node-rs/argon2';
import { scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
import { dictionary } from '@zxcvbn-ts/language-common';

const derive = promisify<string, Buffer, number, Buffer>(scrypt);

/** Argon2id (RFC 9106) with 19 MiB, two passes and one lane: the least that OWASP's cheat sheet on keeping passwords names. */
const costs = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export const shortestPassword = 12;
export const longestPassword = 200;

/** The same characters are the same password, however a keyboard composes them. */
const asTyped = (password: string) => password.normalize('NFC');

/** Returns a password as it is kept: in the text form of Argon2, with its salt and costs. */
export function hashPassword(password: string): Promise<string> {
  return hash(asTyped(password), costs);
}

/** Returns whether a password is the one that is kept. Of nobody (undefined) it takes as long and says no. */
export async function passwordMatches(password: string, kept: string | undefined): Promise<boolean> {
  if (kept === undefined) {
    await hashPassword(password);
    return false;
  }
  return isFormer(kept) ? formerMatches(password, kept) : verify(kept, asTyped(password));
}

/** Returns whether a password is kept in the form that was usual before Argon2: `salt:hash`, by scrypt (RFC 7914). */
export function isFormer(kept: string): boolean {
  return !kept.startsWith('$argon2id$');
}

async function formerMatches(password: string, kept: string): Promise<boolean> {
  const [salt = '', wanted = ''] = kept.split(':').map((part) => Buffer.from(part, 'base64'));
  if (typeof salt === 'string' || typeof wanted === 'string') return false;
  const given = await derive(password, salt, 32);
  return wanted.length === given.length && timingSafeEqual(wanted, given);
}

const common = new Set(dictionary['passwords-common']);

/** What people put around a word to make a password of it. */
const around = /^[\d\W_]+|[\d\W_]+$/gu;

/**
 * Returns why a password is not taken, as a sentence; undefined for one that is. It is too short, or is tried first by whoever guesses:
 * it stands in a list of common ones, as it is or with digits and signs around it, or is made of the person's name, or of few characters.
 */
export function passwordProblem(password: string, name: string): string | undefined {
  const length = [...asTyped(password)].length;
  if (length < shortestPassword)
    return `A password has at least ${shortestPassword} characters; this has ${length}.`;
  if (length > longestPassword) return `A password has at most ${longestPassword} characters.`;
  const lower = asTyped(password).toLowerCase();
  const bare = lower.replace(around, '');
  if ([lower, bare, halved(lower), halved(bare)].some((text) => common.has(text)))
    return 'This password is among those that are tried first. Take one that nobody has, such as four words that do not belong together.';
  if (bare === name.toLowerCase()) return 'The password is your name. Take another one.';
  if (new Set(lower).size < 4) return 'The password is a few characters again and again. Take another one.';
  return undefined;
}

/** Returns a text that is one part written twice or more, as that part. */
function halved(text: string): string {
  return /^(.+?)\1+$/u.exec(text)?.[1] ?? text;
}
