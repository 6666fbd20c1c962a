import {
  matches,
  refKey,
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type RecordRef,
  type Search,
  type StoredRecord,
  type Workspace,
} from '@vast-knot/core';
import type { RecordStore } from '../connector/recordStore';
import type { Registry } from './registry';

/** The live systems, as the engine sees them. */
export class ConnectedWorkspace implements Workspace {
  /** `hidden` are records that an earlier plan of the run created: a plan that is made anew creates them as the first did. */
  constructor(
    private readonly registry: Registry,
    private readonly hidden: ReadonlySet<string> = new Set(),
  ) {}

  get(ref: RecordRef): Promise<StoredRecord | undefined> {
    // What only tells of rows and answers has none that could be read.
    if (this.registry.inlets.has(ref.system)) return Promise.resolve(undefined);
    return this.store(ref.system).get(ref.recordType, ref.id);
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const found = await this.store(search.system).find(search.recordType, search.conditions, search.peek);
    const type = this.registry.catalog.recordType(search.system, search.recordType);
    // A system that filters more loosely than we compare must not widen the find.
    return found.filter(({ ref, record }) => !this.hidden.has(refKey(ref)) && matches(type, record, search));
  }

  async apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const groups = new Map<string, { at: number[]; changes: GuardedChange[] }>();
    changes.forEach((guarded, at) => {
      const { ref, kind } = guarded.change;
      const key = `${ref.system}/${ref.recordType}/${kind}`;
      const group = groups.get(key) ?? { at: [], changes: [] };
      group.at.push(at);
      group.changes.push(guarded);
      groups.set(key, group);
    });
    const results: ApplyResult[] = new Array<ApplyResult>(changes.length);
    await Promise.all(
      [...groups.values()].map(async (group) => {
        const change = group.changes[0]?.change;
        if (!change) return;
        const { ref, kind } = change;
        const store = this.store(ref.system);
        const done =
          kind === 'create'
            ? await store.createMany(ref.recordType, group.changes)
            : kind === 'remove'
              ? await store.removeMany(ref.recordType, group.changes)
              : await store.patchMany(ref.recordType, group.changes);
        done.forEach((result, index) => {
          const at = group.at[index];
          if (at !== undefined) results[at] = result;
        });
      }),
    );
    return results;
  }

  private store(system: string): RecordStore {
    const store = this.registry.stores.get(system);
    if (store) return store;
    throw new WorkspaceError({ code: 'refused', message: `There is no system “${system}”.`, retry: false });
  }
}
