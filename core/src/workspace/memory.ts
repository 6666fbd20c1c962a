import { applyChange } from '../change/recordChange';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import { matches } from './matches';
import type { ApplyResult, GuardedChange, Search, Workspace } from './workspace';

/** Records held in memory: the start of a replay. */
export class MemoryWorkspace implements Workspace {
  private readonly records: Map<string, StoredRecord>;

  constructor(
    private readonly catalog: Catalog,
    records: readonly StoredRecord[],
  ) {
    this.records = new Map(records.map((stored) => [refKey(stored.ref), stored]));
  }

  get(ref: RecordRef): Promise<StoredRecord | undefined> {
    return Promise.resolve(this.records.get(refKey(ref)));
  }

  find(search: Search): Promise<readonly StoredRecord[]> {
    const type = this.catalog.recordType(search.system, search.recordType);
    const found = [...this.records.values()].filter(
      ({ ref, record }) =>
        ref.system === search.system && ref.recordType === search.recordType && matches(type, record, search),
    );
    return Promise.resolve(found);
  }

  apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return Promise.resolve(changes.map((guarded) => this.applyOne(guarded)));
  }

  private applyOne({ change }: GuardedChange): ApplyResult {
    const key = refKey(change.ref);
    const applied = applyChange(change, this.records.get(key)?.record);
    if (!applied.ok) {
      return { ok: false, problem: { code: 'changed in between', message: applied.because, retry: true } };
    }
    if (applied.record) this.records.set(key, { ref: change.ref, record: applied.record });
    else this.records.delete(key);
    return { ok: true, record: applied.record };
  }
}
