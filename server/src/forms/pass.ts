import { v7 as uuid } from 'uuid';
import type { Seal } from '../db/seal';

/** A page is answered by a person after so long at the soonest, and is taken for so long. */
const [soonestMs, longestMs] = [1500, 24 * 3600 * 1000];

const about = (address: string) => `form page ${address}`;

/** Returns what a page of a form carries, so that it is known when it was made and whether it was sent before. */
export function newPass(seal: Seal, address: string, now: Date): string {
  return seal.seal(JSON.stringify({ id: uuid(), at: now.getTime() }), about(address)).toString('base64url');
}

/** What a page that is sent carries: its id, or why it is not taken. */
export type PassRead =
  { readonly ok: true; readonly id: string } | { readonly ok: false; readonly because: string };

export function readPass(seal: Seal, address: string, pass: string, now: Date): PassRead {
  const opened = open(seal, address, pass);
  if (!opened)
    return {
      ok: false,
      because: 'The page is not one of ours any more. Your answers are still here: send them once more.',
    };
  const age = now.getTime() - opened.at;
  if (age < soonestMs)
    return { ok: false, because: 'That was very quick. Look through your answers, and send them once more.' };
  if (age > longestMs)
    return {
      ok: false,
      because: 'The page was open for more than a day. Your answers are still here: send them once more.',
    };
  return { ok: true, id: opened.id };
}

function open(
  seal: Seal,
  address: string,
  pass: string,
): { readonly id: string; readonly at: number } | undefined {
  try {
    // What opens is what we sealed.
    return JSON.parse(seal.open(Buffer.from(pass, 'base64url'), about(address))) as {
      id: string;
      at: number;
    };
  } catch {
    return undefined;
  }
}
