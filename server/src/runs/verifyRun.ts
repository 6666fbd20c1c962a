import {
  verifyWrite,
  WorkspaceError,
  type StoredRecord,
  type VerifiedField,
  type VerifiedRecord,
  type RecordRef,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { Registry } from '../registry/registry';
import { changedSince, fieldKey, writtenBy, type WrittenRecord } from './outcome';

/** Records of a run that are read back. */
const mostRead = 2000;

/** Reads every record that a run wrote back from its system, and returns whether it still holds what was written. */
export async function verifyRun(
  pool: Pool,
  registry: Registry,
  runId: string,
): Promise<readonly VerifiedRecord[]> {
  const found: Found[] = [];
  for (const group of byType(await writtenBy(pool, [runId], mostRead))) {
    const read = await readBack(registry, group);
    for (const { ref, planned } of group) {
      const type = registry.catalog.recordType(ref.system, ref.recordType);
      found.push(
        'problem' in read
          ? { ref, fields: [], problem: read.problem }
          : {
              ref,
              fields: verifyWrite(planned.change, read.records.get(ref.id)?.record, type),
              problem: null,
            },
      );
    }
  }
  const changed = found.flatMap(({ ref, fields }) =>
    fields
      .filter(({ standing }) => standing === 'changed since')
      .map(({ path }) => ({ run: runId, ref, path })),
  );
  const changers = await changedSince(pool, changed);
  return found.map(({ ref, fields, problem }) => ({
    ref,
    problem,
    fields: fields.map((field) => ({
      ...field,
      by: changers.get(fieldKey({ ref, path: field.path })) ?? null,
    })),
  }));
}

interface Found {
  readonly ref: RecordRef;
  readonly fields: readonly VerifiedField[];
  readonly problem: string | null;
}

function byType(rows: readonly WrittenRecord[]): readonly (readonly WrittenRecord[])[] {
  const groups = new Map<string, WrittenRecord[]>();
  for (const row of rows) {
    const key = `${row.ref.system}/${row.ref.recordType}`;
    const group = groups.get(key);
    if (group) group.push(row);
    else groups.set(key, [row]);
  }
  return [...groups.values()];
}

/** Returns the records of one type as their system has them now, by id; or why they cannot be read. */
async function readBack(
  registry: Registry,
  group: readonly WrittenRecord[],
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
