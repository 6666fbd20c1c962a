import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import { scalarText } from '../model/jsonText';
import type { RecordType } from '../model/system';
import { counterpartType, ownSystem, pairRecord } from '../model/counterpart';
import type { Workspace } from '../workspace/workspace';
import type { RuleContext } from './ruleContext';

/**
 * Returns the remembered counterparts of records in another record type, by the keys of the records: those that there are and that are
 * still there. Asks three times, however many records there are.
 */
export async function counterpartsOf(
  refs: readonly RecordRef[],
  { system, recordType }: Pick<RecordRef, 'system' | 'recordType'>,
  type: RecordType,
  workspace: Workspace,
): Promise<ReadonlyMap<string, StoredRecord>> {
  const ids = new Map<string, string>();
  for (const [mine, theirs] of [
    ['b', 'a'],
    ['a', 'b'],
  ] as const) {
    const pairs = await workspace.find({
      system: ownSystem,
      recordType: counterpartType,
      conditions: [
        { field: `${mine}_id`, values: valuesOf(refs, 'id') },
        { field: `${mine}_type`, values: valuesOf(refs, 'recordType') },
        { field: `${mine}_system`, values: valuesOf(refs, 'system') },
        { field: `${theirs}_type`, values: [recordType] },
        { field: `${theirs}_system`, values: [system] },
      ],
    });
    // Of several pairs the first counts, and one that was remembered this way round before one the other way.
    for (const { record } of [...pairs].reverse()) {
      const text = (name: string) => scalarText(record[name]);
      const key = refKey({
        system: text(`${mine}_system`),
        recordType: text(`${mine}_type`),
        id: text(`${mine}_id`),
      });
      ids.set(key, text(`${theirs}_id`));
    }
  }
  if (ids.size === 0) return new Map();
  const found = await workspace.find({
    system,
    recordType,
    conditions: [{ field: type.idField, values: [...new Set(ids.values())] }],
  });
  const byId = new Map(found.map((stored) => [stored.ref.id, stored]));
  return new Map(
    [...ids].flatMap(([key, id]): [string, StoredRecord][] => {
      const stored = byId.get(id);
      return stored ? [[key, stored]] : [];
    }),
  );
}

function valuesOf(refs: readonly RecordRef[], part: keyof RecordRef): readonly string[] {
  return [...new Set(refs.map((ref) => ref[part]))];
}

/** Remembers that two records of two systems are the same thing. */
export async function rememberPair(
  a: RecordRef,
  b: RecordRef,
  { freshId, workspace, remembered }: Pick<RuleContext, 'freshId' | 'workspace' | 'remembered'>,
): Promise<void> {
  const id = freshId();
  const ref = { system: ownSystem, recordType: counterpartType, id };
  await workspace.apply([{ change: { kind: 'create', ref, record: pairRecord(id, a, b) } }]);
  remembered.push(ref);
}
