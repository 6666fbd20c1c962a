import {
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import { Gather } from '../db/gather';
import type { PageRequest, RecordsPage, RecordStore } from './recordStore';

/** Requests of one kind that are under way at the same time. */
const atOnce = 4;
/** Records that are read, or values that are looked for, with one request. */
const most = 100;
/** So many changes are worth a request of their own. */
const enough = 50;

const options = {
  most,
  atOnce,
  // A request that is refused may be so for one of those who asked.
  mayBeOnes: (thrown: unknown) => thrown instanceof WorkspaceError && thrown.problem.code === 'refused',
};

const known = new WeakMap<RecordStore, RecordStore>();

/** Returns a store that asks once for all that is wanted of it in the same moment; always the same one for a store. */
export function gathered(store: RecordStore): RecordStore {
  const made = known.get(store) ?? new GatheredStore(store);
  known.set(store, made);
  return made;
}

type Conditions = readonly SearchCondition[];

class GatheredStore implements RecordStore {
  private readonly gets = new Map<string, Gather<string, StoredRecord | undefined>>();
  private readonly finds = new Map<string, Gather<Conditions, StoredRecord[]>>();
  private readonly edits = new Map<string, Gather<readonly GuardedChange[], readonly ApplyResult[]>>();

  constructor(private readonly store: RecordStore) {}

  get(type: string, id: string): Promise<StoredRecord | undefined> {
    const gather =
      this.gets.get(type) ?? new Gather((ids: readonly string[]) => this.getAll(type, ids), options);
    this.gets.set(type, gather);
    return gather.do(id);
  }

  page(request: PageRequest): Promise<RecordsPage> {
    return this.store.page(request);
  }

  find(type: string, conditions: Conditions, limit?: number): Promise<StoredRecord[]> {
    if (limit !== undefined || conditions.length === 0) return this.store.find(type, conditions, limit);
    const key = JSON.stringify([type, conditions.map(({ field }) => field)]);
    const gather =
      this.finds.get(key) ?? new Gather((all: readonly Conditions[]) => this.findAll(type, all), options);
    this.finds.set(key, gather);
    return gather.do(conditions);
  }

  write(type: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const alone = !this.store.takesMany || changes.length >= enough;
    if (alone || changes.some(({ change }) => change.kind !== 'edit')) return this.store.write(type, changes);
    const gather =
      this.edits.get(type) ??
      new Gather((all: readonly (readonly GuardedChange[])[]) => this.writeAll(type, all), options);
    this.edits.set(type, gather);
    return gather.do(changes);
  }

  private async getAll(type: string, ids: readonly string[]): Promise<readonly (StoredRecord | undefined)[]> {
    const different = [...new Set(ids)];
    const { getMany } = this.store;
    const found =
      different.length > 1 && getMany
        ? await getMany.call(this.store, type, different)
        : await Promise.all(different.map((id) => this.store.get(type, id)));
    const byId = new Map(found.flatMap((stored) => (stored ? [[stored.ref.id, stored]] : [])));
    return ids.map((id) => byId.get(id));
  }

  /**
   * Returns what is found for each of several searches in the same fields. Those that differ in one field alone are one search, for
   * all of their values; each of them then gets what was found for all, and whoever searches compares anyway.
   */
  private async findAll(type: string, all: readonly Conditions[]): Promise<readonly StoredRecord[][]> {
    const [first = []] = all;
    const differing = first.flatMap((_one, at) => {
      const values = new Set(all.map((conditions) => JSON.stringify(conditions[at]?.values)));
      return values.size > 1 ? [at] : [];
    });
    if (differing.length > 1) return Promise.all(all.map((conditions) => this.store.find(type, conditions)));
    const together = first.map((condition, at): SearchCondition => {
      if (!differing.includes(at)) return condition;
      const values = all.flatMap((conditions) => conditions[at]?.values ?? []);
      return {
        ...condition,
        values: [...new Map(values.map((value) => [JSON.stringify(value), value])).values()],
      };
    });
    const found = await this.store.find(type, together);
    return all.map(() => found);
  }

  private async writeAll(
    type: string,
    all: readonly (readonly GuardedChange[])[],
  ): Promise<readonly (readonly ApplyResult[])[]> {
    const results = await this.store.write(type, all.flat());
    let at = 0;
    return all.map((changes) => results.slice(at, (at += changes.length)));
  }
}
