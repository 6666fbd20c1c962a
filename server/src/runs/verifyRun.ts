import {
  refKey,
  verifyWrite,
  WorkspaceError,
  type PlannedWrite,
  type RecordRef,
  type StoredRecord,
  type VerifiedField,
  type VerifiedRecord,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { Registry } from '../registry/registry';

/** Records of a run that are read back. */
const most = 2000;

interface Written {
  readonly ref: RecordRef;
  readonly planned: PlannedWrite;
}

/** Reads every record that a run wrote back from its system, and tells whether it still holds what was written. */
export async function verifyRun(
  pool: Pool,
  registry: Registry,
  runId: string,
): Promise<readonly VerifiedRecord[]> {
  const { rows } = await pool.query<Written>(
    `SELECT planned, json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref
     FROM writes JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = $1 AND state = 'written' ORDER BY plan, seq LIMIT ${most}`,
    [runId],
  );
  const found: Found[] = [];
  for (const group of byType(rows)) {
    const read = await readBack(registry, group);
    for (const { ref, planned } of group) {
      const type = registry.catalog.recordType(ref.system, ref.recordType);
      found.push(
        'problem' in read
          ? { ref, fields: [], problem: read.problem }
          : { ref, fields: verifyWrite(planned, read.records.get(ref.id)?.record, type), problem: null },
      );
    }
  }
  const changers = await changedBy(pool, runId, found);
  return found.map(({ ref, fields, problem }) => ({
    ref,
    problem,
    fields: fields.map((field) => ({ ...field, by: changers.get(placeOf(ref, field.path)) ?? null })),
  }));
}

interface Found {
  readonly ref: RecordRef;
  readonly fields: readonly VerifiedField[];
  readonly problem: string | null;
}

function placeOf(ref: RecordRef, path: string): string {
  return JSON.stringify([refKey(ref), path]);
}

function byType(rows: readonly Written[]): readonly (readonly Written[])[] {
  const groups = new Map<string, Written[]>();
  for (const row of rows) {
    const key = `${row.ref.system}/${row.ref.recordType}`;
    const group = groups.get(key);
    if (group) group.push(row);
    else groups.set(key, [row]);
  }
  return [...groups.values()];
}

/** The records of one type as their system has them now, by id. */
async function readBack(
  registry: Registry,
  group: readonly Written[],
): Promise<{ readonly records: ReadonlyMap<string, StoredRecord> } | { readonly problem: string }> {
  const [first] = group;
  const type = first && registry.catalog.recordType(first.ref.system, first.ref.recordType);
  const store = first && registry.stores.get(first.ref.system);
  if (!type || !store) return { problem: 'Its system is no longer connected.' };
  try {
    const ids = group.map(({ ref }) => ref.id);
    const found = await store.find(type.name, [{ field: type.idField, values: ids }]);
    return { records: new Map(found.map((stored) => [stored.ref.id, stored])) };
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    return { problem: thrown.problem.message };
  }
}

type Changer = NonNullable<VerifiedRecord['fields'][number]['by']>;

/** What changed fields since a run wrote them, by record and field: a later write of ours or an event, whichever came last. */
async function changedBy(
  pool: Pool,
  runId: string,
  found: readonly Found[],
): Promise<ReadonlyMap<string, Changer>> {
  const asked = found.flatMap(({ ref, fields }) =>
    fields.filter(({ standing }) => standing === 'changed since').map(({ path }) => ({ ref, path })),
  );
  if (asked.length === 0) return new Map();
  const { rows } = await pool.query<Changer & { place: number }>(
    `SELECT place, latest.* FROM
       unnest($2::text[], $3::text[], $4::text[], $5::text[]) WITH ORDINALITY AS asked (system, type, id, path, place),
       LATERAL (
         SELECT run_id AS run, written_at AS at,
           array_to_string(ARRAY(SELECT jsonb_array_elements_text(planned->'rules')), ', ') AS who
         FROM writes JOIN planned_writes USING (run_id, plan, seq)
         WHERE (system, record_type, record_id) = (asked.system, asked.type, asked.id)
           AND run_id > $1 AND state = 'written'
           AND planned->'edits' @> jsonb_build_array(jsonb_build_object('path', asked.path))
         UNION ALL
         SELECT id AS run, received_at AS at, 'somebody in ' || inbox.system AS who
         FROM inbox JOIN runs USING (id)
         WHERE (inbox.system, record_type, record_id) = (asked.system, asked.type, asked.id)
           AND inbox.id > $1 AND runs.event->'changed' ? asked.path
         ORDER BY run DESC LIMIT 1
       ) AS latest`,
    [
      runId,
      asked.map(({ ref }) => ref.system),
      asked.map(({ ref }) => ref.recordType),
      asked.map(({ ref }) => ref.id),
      asked.map(({ path }) => path),
    ],
  );
  return new Map(
    rows.flatMap(({ place, run, who, at }): [string, Changer][] => {
      const one = asked[Number(place) - 1];
      return one ? [[placeOf(one.ref, one.path), { run, who, at }]] : [];
    }),
  );
}
