import {
  refKey,
  undoOf,
  WorkspaceError,
  type ChangeEvent,
  type EngineResult,
  type RecordRef,
  type StoredRecord,
  type Undoes,
  type Undoing,
} from '@vast-knot/core';
import type { Pool, Runner } from '../db/pool';
import type { Registry } from '../registry/registry';
import { writtenBy, type WrittenRecord } from '../runs/outcome';
import { tellsOfChange } from '../runs/toldAs';

/** Writes of one run that can be taken back at a time. */
const mostWrites = 100_000;
/** Records that are read with one request. */
const readAtOnce = 500;
/** Records that stay as they are of which the run tells. */
const examplesKept = 20;

/** What of which runs is taken back. */
export interface ToUndo extends Pick<Undoes, 'only' | 'without' | 'rule'> {
  readonly runs: readonly string[];
}

/** What taking back comes to, with the last of the runs that wrote to each record, by `refKey`. */
export interface UndoingOfRuns extends Undoing {
  readonly lastRun: ReadonlyMap<string, string>;
}

/** Returns what taking back what runs wrote comes to, as the records are now. Throws a WorkspaceError when a system does not answer. */
export async function undoingOf(
  pool: Pool,
  registry: Registry,
  { runs, only, without, rule }: ToUndo,
): Promise<UndoingOfRuns> {
  const wanted = only && new Set(only);
  const left = new Set(without);
  const made = (await writtenBy(pool, runs, mostWrites)).filter(
    ({ ref, planned }) =>
      (!wanted || wanted.has(refKey(ref))) &&
      !left.has(refKey(ref)) &&
      (rule === undefined || planned.rules.some(({ id }) => id === rule)),
  );
  const [now, touched] = await Promise.all([readAll(registry, made), touchedSince(pool, made)]);
  const undoing = undoOf(
    made.map(({ ref, planned: { change } }) => ({ ref, change })),
    now,
    registry.catalog,
    touched,
  );
  return { ...undoing, lastRun: new Map(made.map(({ run, ref }) => [refKey(ref), run])) };
}

/** Computes the run that takes back what another wrote. No rule takes part. */
export async function undoRun(
  pool: Pool,
  registry: Registry,
  event: ChangeEvent,
  undoes: Undoes,
): Promise<EngineResult> {
  const { records, writes } = await undoingOf(pool, registry, { ...undoes, runs: [undoes.run] });
  const stays = records.filter(({ standing }) => standing === 'changed since');
  return {
    report: {
      event,
      rules: [],
      writes,
      messages: [],
      waiting: [],
      problems: [],
      undone: {
        back: writes.length,
        stays: stays.length,
        examples: stays.slice(0, examplesKept).map(({ ref }) => ref),
      },
    },
    met: [],
  };
}

/** Returns the records as their systems have them now, by `refKey`. */
async function readAll(
  registry: Registry,
  made: readonly WrittenRecord[],
): Promise<ReadonlyMap<string, StoredRecord>> {
  const byType = new Map<string, RecordRef[]>();
  for (const ref of new Map(made.map(({ ref }) => [refKey(ref), ref])).values()) {
    const key = `${ref.system}/${ref.recordType}`;
    const group = byType.get(key);
    if (group) group.push(ref);
    else byType.set(key, [ref]);
  }
  const now = new Map<string, StoredRecord>();
  for (const [first, ...more] of [...byType.values()].map((group) => group)) {
    if (!first) continue;
    const type = registry.catalog.recordType(first.system, first.recordType);
    const store = registry.stores.get(first.system);
    if (!type || !store)
      throw new WorkspaceError({
        code: 'refused',
        message: `What was written in “${first.system}” cannot be taken back: it is not connected any more.`,
        retry: false,
      });
    const ids = [first, ...more].map(({ id }) => id);
    for (let at = 0; at < ids.length; at += readAtOnce) {
      const some = ids.slice(at, at + readAtOnce);
      const found = store.getMany
        ? await store.getMany(type.name, some)
        : (await Promise.all(some.map((id) => store.get(type.name, id)))).flatMap((each) => each ?? []);
      for (const stored of found) now.set(refKey(stored.ref), stored);
    }
  }
  return now;
}

/** Returns a field that somebody else changed since a run, for records that it created, by `refKey`. */
async function touchedSince(
  runner: Runner,
  made: readonly WrittenRecord[],
): Promise<ReadonlyMap<string, string>> {
  const created = made.filter(({ planned }) => planned.change.kind === 'create');
  if (created.length === 0) return new Map();
  const { rows } = await runner.query<RecordRef & { path: string }>(
    `SELECT DISTINCT ON (system, type, record) system, type AS "recordType", record AS id, runs.event->'changed'->>0 AS path
     FROM unnest($1::bigint[], $2::text[], $3::text[], $4::text[]) AS created (run, system, type, record)
       JOIN inbox USING (system) JOIN runs ON runs.id = inbox.id
     WHERE inbox.id > created.run AND (inbox.record_type, inbox.record_id) = (type, record)
       AND inbox.kind = 'updated' AND inbox.result IS DISTINCT FROM 'own write' AND jsonb_array_length(runs.event->'changed') > 0
       AND ${tellsOfChange}`,
    [
      created.map(({ run }) => run),
      created.map(({ ref }) => ref.system),
      created.map(({ ref }) => ref.recordType),
      created.map(({ ref }) => ref.id),
    ],
  );
  return new Map(rows.map(({ path, ...ref }) => [refKey(ref), path]));
}
