import { inTransaction, type Client, type Pool, type Runner } from './db/pool';
import type { Seal } from './db/seal';
import { ofDraft } from './drafts/repository';
import { ofEndpoint } from './endpoints/repository';
import { ofFileSource } from './fileSources/repository';
import { ofPerson } from './people/people';
import { ofMasking } from './samples/maskKey';
import { ofSystem } from './systems/repository';

/** One kind of thing that is kept sealed. */
interface Sealed {
  /** All of them, locked: by which columns each is known, what it is called for a person, and the bytes. */
  readonly select: string;
  readonly update: string;
  readonly about: (key: string, name: string) => string;
}

/** Everything that is kept sealed. */
const all: readonly Sealed[] = [
  {
    select: 'SELECT system AS key, name, sealed AS bytes FROM secrets',
    update: 'UPDATE secrets SET sealed = $3 WHERE system = $1 AND name = $2',
    about: ofSystem,
  },
  {
    select: 'SELECT draft::text AS key, name, sealed AS bytes FROM draft_secrets',
    update: 'UPDATE draft_secrets SET sealed = $3 WHERE draft = $1::uuid AND name = $2',
    about: ofDraft,
  },
  {
    select: `SELECT key, 'now' AS name, sealed AS bytes FROM endpoints`,
    update: `UPDATE endpoints SET sealed = $3 WHERE key = $1 AND $2 = 'now'`,
    about: ofEndpoint,
  },
  {
    select: `SELECT key, 'former' AS name, former AS bytes FROM endpoints WHERE former IS NOT NULL`,
    update: `UPDATE endpoints SET former = $3 WHERE key = $1 AND $2 = 'former'`,
    about: ofEndpoint,
  },
  {
    select: `SELECT id::text AS key, '' AS name, sealed AS bytes FROM file_sources WHERE sealed IS NOT NULL`,
    update: `UPDATE file_sources SET sealed = $3 WHERE id = $1::uuid AND $2 = ''`,
    about: (key) => ofFileSource(key),
  },
  {
    select: `SELECT name AS key, '' AS name, code_secret AS bytes FROM people WHERE code_secret IS NOT NULL`,
    update: `UPDATE people SET code_secret = $3 WHERE name = $1 AND $2 = ''`,
    about: (key) => ofPerson(key),
  },
  {
    select: `SELECT 'masking' AS key, '' AS name, mask_key AS bytes FROM installation WHERE mask_key IS NOT NULL`,
    update: `UPDATE installation SET mask_key = $3 WHERE $1 = 'masking' AND $2 = ''`,
    about: ofMasking,
  },
];

interface Row {
  readonly key: string;
  readonly name: string;
  readonly bytes: Buffer;
}

/** Seals everything with the present key, all or nothing. Returns how many were sealed anew; what is sealed so already stays. */
export function resealAll(pool: Pool, seal: Seal): Promise<number> {
  return inTransaction(pool, async (client) => {
    let count = 0;
    for (const kind of all) count += await reseal(client, seal, kind);
    return count;
  });
}

async function reseal(client: Client, seal: Seal, { select, update, about }: Sealed): Promise<number> {
  const { rows } = await client.query<Row>(`${select} FOR UPDATE`);
  const stale = rows.filter(({ bytes }) => !seal.isPresent(bytes));
  for (const { key, name, bytes } of stale) {
    const place = about(key, name);
    await client.query(update, [key, name, seal.seal(seal.open(bytes, place), place)]);
  }
  return stale.length;
}

/** Returns what cannot be opened with the keys of this installation, each as where it is sealed for. */
export async function unopened(runner: Runner, seal: Seal): Promise<readonly string[]> {
  const wrong: string[] = [];
  for (const { select, about } of all) {
    const { rows } = await runner.query<Row>(select);
    for (const { key, name, bytes } of rows) {
      try {
        seal.open(bytes, about(key, name));
      } catch {
        wrong.push(about(key, name));
      }
    }
  }
  return wrong;
}
