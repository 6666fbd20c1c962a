import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { ApplyResult, GuardedChange, Search, Workspace } from './workspace';

/** Another workspace with records that were read a moment ago: whoever asks for one of them gets it, and nothing is asked of its system. */
export class AtHandWorkspace implements Workspace {
  /** By `refKey`, once one of them is asked for. */
  private byKey: ReadonlyMap<string, StoredRecord> | undefined;

  constructor(
    private readonly base: Workspace,
    private readonly records: readonly StoredRecord[],
  ) {}

  get(ref: RecordRef): Promise<StoredRecord | undefined> {
    this.byKey ??= new Map(this.records.map((stored) => [refKey(stored.ref), stored]));
    const known = this.byKey.get(refKey(ref));
    return known ? Promise.resolve(known) : this.base.get(ref);
  }

  find(search: Search): Promise<readonly StoredRecord[]> {
    return this.base.find(search);
  }

  apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return this.base.apply(changes);
  }
}
