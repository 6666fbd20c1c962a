import {
  verifyWrite,
  WorkspaceError,
  type PlannedWrite,
  type RecordRef,
  type StoredRecord,
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
  const verified: VerifiedRecord[] = [];
  for (const group of byType(rows)) {
    const read = await readBack(registry, group);
    for (const { ref, planned } of group) {
      if ('problem' in read) {
        verified.push({ ref, fields: [], problem: read.problem });
        continue;
      }
      const type = registry.catalog.recordType(ref.system, ref.recordType);
      const found = verifyWrite(planned, read.records.get(ref.id)?.record, type);
      const fields = await Promise.all(
        found.map(async (field) => ({
          ...field,
          by: field.standing === 'changed since' ? await changedBy(pool, runId, ref, field.path) : null,
        })),
      );
      verified.push({ ref, fields, problem: null });
    }
  }
  return verified;
}

function byType(rows: readonly Written[]): readonly (readonly Written[])[] {
  const groups = new Map<string, Written[]>();
  for (const row of rows) {
    const key = `${row.ref.system}/${row.ref.recordType}`;
    groups.set(key, [...(groups.get(key) ?? []), row]);
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

/** The latest later write of ours to a field, or else the latest event that told of its change. */
async function changedBy(
  pool: Pool,
  runId: string,
  { system, recordType, id }: RecordRef,
  path: string,
): Promise<VerifiedRecord['fields'][number]['by']> {
  const { rows } = await pool.query<{ run: string; who: string; at: string }>(
    `(SELECT run_id AS run, array_to_string(ARRAY(SELECT jsonb_array_elements_text(planned->'rules')), ', ') AS who, written_at AS at
      FROM writes JOIN planned_writes USING (run_id, plan, seq)
      WHERE (system, record_type, record_id) = ($2, $3, $4) AND run_id > $1 AND state = 'written'
        AND planned->'edits' @> jsonb_build_array(jsonb_build_object('path', $5::text))
      ORDER BY run_id DESC LIMIT 1)
     UNION ALL
     (SELECT id AS run, 'somebody in ' || inbox.system AS who, received_at AS at
      FROM inbox JOIN runs USING (id)
      WHERE (inbox.system, record_type, record_id) = ($2, $3, $4) AND id > $1 AND runs.event->'changed' ? $5
      ORDER BY id DESC LIMIT 1)
     LIMIT 1`,
    [runId, system, recordType, id, path],
  );
  return rows[0] ?? null;
}
