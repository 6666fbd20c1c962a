import type { RecordRef, StoredRecord } from '../model/record';
import { counterpartType, ownSystem, pairRecord } from '../model/counterpart';
import type { Workspace } from '../workspace/workspace';
import type { UnderWay } from './ruleRun';

/** The remembered counterpart of a record in another record type, if there is one and it is still there. */
export async function counterpartOf(
  of: RecordRef,
  { system, recordType }: Pick<RecordRef, 'system' | 'recordType'>,
  workspace: Workspace,
): Promise<StoredRecord | undefined> {
  for (const [mine, theirs] of [
    ['a', 'b'],
    ['b', 'a'],
  ] as const) {
    const pairs = await workspace.find({
      system: ownSystem,
      recordType: counterpartType,
      conditions: [
        { field: `${mine}_id`, values: [of.id] },
        { field: `${mine}_type`, values: [of.recordType] },
        { field: `${mine}_system`, values: [of.system] },
        { field: `${theirs}_type`, values: [recordType] },
        { field: `${theirs}_system`, values: [system] },
      ],
    });
    for (const { record } of pairs) {
      const stored = await workspace.get({ system, recordType, id: String(record[`${theirs}_id`] ?? '') });
      if (stored) return stored;
    }
  }
  return undefined;
}

/** Remembers that two records of two systems are the same thing. */
export async function rememberPair(
  a: RecordRef,
  b: RecordRef,
  { freshId, workspace, remembered }: Pick<UnderWay, 'freshId' | 'workspace' | 'remembered'>,
): Promise<void> {
  const id = freshId();
  const ref = { system: ownSystem, recordType: counterpartType, id };
  await workspace.apply([{ change: { kind: 'create', ref, record: pairRecord(id, a, b) } }]);
  remembered.push(ref);
}
