import { createHash, randomUUID } from 'node:crypto';
import { jsonDifferences, type AuditEntry, type AuditPage, type AuditView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { storable } from '../db/storable';

/** Appends what was done. It waits for what others append, so that entries have one order. */
export async function append(runner: Runner, entry: AuditEntry): Promise<void> {
  await runner.query('SELECT append_audit($1)', [textOf(entry)]);
}

const textOf = (entry: AuditEntry) => storable(JSON.stringify(entry));

/** What somebody is about to do. */
export type Begun = Pick<AuditEntry, 'at' | 'person' | 'token' | 'from' | 'what' | 'kind' | 'key' | 'name'>;

/** Notes that somebody is about to do something, and how that stands before. Returns by what it is ended. */
export async function beginAct(runner: Runner, begun: Begun, before: unknown): Promise<string> {
  const id = randomUUID();
  await runner.query('INSERT INTO acts_begun (id, entry, before) VALUES ($1, $2, $3)', [
    id,
    storable(JSON.stringify(begun)),
    before === undefined ? null : storable(JSON.stringify(before)),
  ]);
  return id;
}

/** Appends an act that was begun, and forgets that it was: both or none. */
export async function endAct(runner: Runner, id: string, entry: AuditEntry): Promise<void> {
  await runner.query(
    'WITH gone AS (DELETE FROM acts_begun WHERE id = $1 RETURNING id) SELECT append_audit($2) FROM gone',
    [id, textOf(entry)],
  );
}

/** Forgets an act that changed nothing. */
export async function forgetAct(runner: Runner, id: string): Promise<void> {
  await runner.query('DELETE FROM acts_begun WHERE id = $1', [id]);
}

/** Nothing that somebody does takes longer: whoever was at it has ended. */
const lostMinutes = 15;

/** Appends what was begun and never ended, because its process was: whether it was done is not known. Returns how many these were. */
export async function appendLost(runner: Runner, minutes = lostMinutes): Promise<number> {
  const { rowCount } = await runner.query(
    `WITH gone AS (DELETE FROM acts_begun WHERE began_at < now() - make_interval(mins => $1) RETURNING entry, began_at)
     SELECT append_audit((entry || '{"result": "unknown", "changes": [], "because": "The process ended meanwhile."}')::text)
     FROM (SELECT entry FROM gone ORDER BY began_at) AS lost`,
    [minutes],
  );
  return rowCount ?? 0;
}

/** Returns the entry of an act with what it changed. */
export function ended(
  begun: Begun,
  rest: Pick<AuditEntry, 'result' | 'because'>,
  before: unknown,
  after: unknown,
): AuditEntry {
  const { changes, more } = jsonDifferences(before, after);
  return { ...begun, ...rest, changes, ...(more > 0 && { more }) };
}

/** What a list of entries is narrowed by. */
export interface AuditFilter {
  readonly person?: string;
  readonly kind?: string;
  readonly key?: string;
  /** ISO 8601. */
  readonly from?: string;
  readonly to?: string;
  /** Text that stands in the entry. */
  readonly text?: string;
}

/** Returns entries, the last one first. */
export async function readAudit(
  runner: Runner,
  { person, kind, key, from, to, text }: AuditFilter,
  { before, limit }: { readonly before?: string | undefined; readonly limit: number },
): Promise<AuditPage> {
  const { rows } = await runner.query<{ id: string; entry: string }>(
    `SELECT id, entry FROM audit
     WHERE ($1::text IS NULL OR person = $1) AND ($2::text IS NULL OR kind = $2) AND ($3::text IS NULL OR key = $3)
       AND ($4::timestamptz IS NULL OR at >= $4) AND ($5::timestamptz IS NULL OR at < $5)
       AND ($6::text IS NULL OR entry ILIKE '%' || replace(replace(replace($6, '\\', '\\\\'), '%', '\\%'), '_', '\\_') || '%')
       AND ($7::bigint IS NULL OR id < $7)
     ORDER BY id DESC LIMIT $8`,
    [
      person ?? null,
      kind ?? null,
      key ?? null,
      from ?? null,
      to ?? null,
      text ?? null,
      before ?? null,
      limit + 1,
    ],
  );
  const entries = rows
    .slice(0, limit)
    .map(({ id, entry }): AuditView => ({ ...(JSON.parse(entry) as AuditEntry), id }));
  return { entries, next: rows.length > limit ? (entries.at(-1)?.id ?? null) : null };
}

/** What the chain of entries is like: whole, with the last number and its hash; or where it is broken, and why. */
export type ChainState =
  | { readonly ok: true; readonly entries: number; readonly hash: string }
  | { readonly ok: false; readonly id: string; readonly because: string };

/**
 * Computes every hash anew. An entry that was changed, put in or taken out is named. That the last ones were taken off can only be seen by
 * whoever noted a number and its hash before: `noted`.
 */
export async function verifyChain(
  runner: Runner,
  noted?: { readonly id: string; readonly hash: string },
): Promise<ChainState> {
  let before: Buffer = Buffer.alloc(0);
  let last = 0n;
  let seen = noted === undefined;
  for (;;) {
    const { rows } = await runner.query<Row>(
      `SELECT id, entry, hash, at, person, what, kind, key FROM audit WHERE id > $1 ORDER BY id LIMIT 1000`,
      [String(last)],
    );
    for (const row of rows) {
      const because = wrongIn(row, before, last);
      if (because !== undefined) return { ok: false, id: row.id, because };
      if (row.id === noted?.id) {
        if (row.hash.toString('hex') !== noted.hash)
          return { ok: false, id: row.id, because: 'It is not what it was when its hash was noted.' };
        seen = true;
      }
      before = row.hash;
      last = BigInt(row.id);
    }
    if (rows.length === 0) break;
  }
  if (!seen)
    return {
      ok: false,
      id: noted?.id ?? '',
      because: 'It was noted, and is not there: the last entries were taken off.',
    };
  return { ok: true, entries: Number(last), hash: before.toString('hex') };
}

interface Row {
  readonly id: string;
  readonly entry: string;
  readonly hash: Buffer;
  readonly at: Date;
  readonly person: string;
  readonly what: string;
  readonly kind: string;
  readonly key: string;
}

function wrongIn({ id, entry, hash, at, ...found }: Row, before: Buffer, last: bigint): string | undefined {
  if (BigInt(id) !== last + 1n) return `Entry ${last + 1n} is not there.`;
  const wanted = createHash('sha256').update(before).update(`${id}\n${entry}`).digest();
  if (!wanted.equals(hash)) return 'It is not what its hash was made of.';
  const said = JSON.parse(entry) as AuditEntry;
  const same =
    Date.parse(said.at) === at.getTime() &&
    said.person === found.person &&
    said.what === found.what &&
    said.kind === found.kind &&
    said.key === found.key;
  return same ? undefined : 'What it is found by is not what it says.';
}
