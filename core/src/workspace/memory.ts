import { applyChange } from '../change/recordChange';
import type { RecordRef, StoredRecord } from '../model/record';
import { fieldAt, type Catalog } from '../model/system';
import { matches } from './matches';
import { ValueIndex } from './valueIndex';
import type { ApplyResult, GuardedChange, Search, Workspace } from './workspace';

/** Records held in memory: the start of a replay. */
export class MemoryWorkspace implements Workspace {
  /** By record type, so that a search looks at records of its own type only. */
  private readonly byType = new Map<string, Map<string, StoredRecord>>();
  private readonly indexes = new Map<string, ValueIndex>();

  constructor(
    private readonly catalog: Catalog,
    records: readonly StoredRecord[],
  ) {
    for (const stored of records) this.recordsOf(stored.ref).set(stored.ref.id, stored);
  }

  get(ref: RecordRef): Promise<StoredRecord | undefined> {
    return Promise.resolve(this.recordsOf(ref).get(ref.id));
  }

  find(search: Search): Promise<readonly StoredRecord[]> {
    const type = this.catalog.recordType(search.system, search.recordType);
    const found = [...this.candidates(search)].filter(({ record }) => matches(type, record, search));
    return Promise.resolve(search.peek === undefined ? found : found.slice(0, search.peek));
  }

  apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return Promise.resolve(changes.map((guarded) => this.applyOne(guarded)));
  }

  private recordsOf({
    system,
    recordType,
  }: Pick<RecordRef, 'system' | 'recordType'>): Map<string, StoredRecord> {
    const key = `${system}/${recordType}`;
    const known = this.byType.get(key);
    if (known) return known;
    const made = new Map<string, StoredRecord>();
    this.byType.set(key, made);
    return made;
  }

  /** Returns the records among which those of a search are: of many records, those that an index of its first condition gives. */
  private candidates(search: Search): Iterable<StoredRecord> {
    const records = this.recordsOf(search);
    const [first] = search.conditions;
    const type = this.catalog.recordType(search.system, search.recordType);
    const field = first && type && fieldAt(type.fields, first.field);
    if (!field || records.size < worthAnIndex) return records.values();
    const key = JSON.stringify([search.system, search.recordType, first.field]);
    let index = this.indexes.get(key);
    if (!index) {
      index = new ValueIndex(field, first.field, records.values());
      this.indexes.set(key, index);
    }
    return index.candidates(first.values) ?? records.values();
  }

  private applyOne({ change }: GuardedChange): ApplyResult {
    const records = this.recordsOf(change.ref);
    const applied = applyChange(change, records.get(change.ref.id)?.record);
    if (!applied.ok) {
      return { ok: false, problem: { code: 'changed in between', message: applied.because, retry: true } };
    }
    if (applied.record) records.set(change.ref.id, { ref: change.ref, record: applied.record });
    else records.delete(change.ref.id);
    this.indexes.clear();
    return { ok: true, record: applied.record };
  }
}

/** From this many records on an index is made. */
const worthAnIndex = 100;
