import Joi from 'joi';
import { readArrival, type KeptArrival } from '../arrivals/repository';
import type { Pool } from '../db/pool';
import { notFound } from '../http/problem';

/** Returns the id of a run from an address. Throws a 404 when it is none, so that no statement sees it. */
export function runId(text: string): string {
  if (!/^\d{1,18}$/.test(text)) throw notFound('such run');
  return text;
}

/** Returns a UUID from an address. Throws a 404 that names what was asked for when it is none. */
export function uuidOf(text: string, what: string): string {
  if (!/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text)) throw notFound(`such ${what}`);
  return text;
}

/** Returns the key of a system from an address. Throws a 404 when it can be none. */
export function systemKey(text: string): string {
  if (!/^[a-z][a-z0-9-]{0,39}$/.test(text)) throw notFound(`system ${text.slice(0, 80)}`);
  return text;
}

/** How what is paused goes on: with what waited, unless it is to be dropped. */
export const goingOnBody = Joi.object<{ drop: boolean }>({ drop: Joi.boolean().default(false) });

/** Whether cells that a spreadsheet would take for formulas are marked as text. It is a choice: phones and numbers begin with + and - too. */
export const guardQuery = Joi.object<{ guard?: 'yes' }>({ guard: Joi.valid('yes') });

/** An instant of ISO 8601, in a year that the database knows; it comes out in UTC. */
export const instant = Joi.string()
  .isoDate()
  .pattern(/^[1-9]\d{3}-/, 'a year of four digits');

/** Returns the file that an address names. */
export async function keptArrival(id: string, { pool }: { readonly pool: Pool }): Promise<KeptArrival> {
  const found = await readArrival(pool, uuidOf(id, 'file'));
  if (!found) throw notFound('such file');
  return found;
}
