import {
  matches,
  refKey,
  WorkspaceError,
  WrittenSoFar,
  type ApplyResult,
  type GuardedChange,
  type RecordRef,
  type Search,
  type StoredRecord,
  type Workspace,
} from '@vast-knot/core';
import type { RecordStore } from '../connector/recordStore';
import type { Registry } from './registry';

/** Records that a run wrote in which are looked at beside those that a search finds. */
const mostLookedAt = 100;

/** The live systems, as the engine sees them. */
export class ConnectedWorkspace implements Workspace {
  /** Of what earlier plans of the run wrote, nothing is seen: a plan that is made anew is made as the first was. */
  constructor(
    private readonly registry: Registry,
    private readonly written: WrittenSoFar = WrittenSoFar.nothing,
  ) {}

  async get(ref: RecordRef): Promise<StoredRecord | undefined> {
    // What only tells of rows and answers has none that could be read.
    const connector = this.registry.connectors.get(ref.system);
    if (connector && !connector.records) return undefined;
    const found = await this.store(ref.system).get(ref.recordType, ref.id);
    return found && this.written.before(this.registry.catalog, found);
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const { system, recordType, conditions, peek } = search;
    const store = this.store(system);
    const found = await store.find(recordType, conditions, peek);
    const known = new Set(found.map(({ ref }) => refKey(ref)));
    // What the run wrote itself may be why a record is not found any more.
    const edited = this.written.editedOf(system, recordType).filter((ref) => !known.has(refKey(ref)));
    const more = await Promise.all(edited.slice(0, mostLookedAt).map(({ id }) => store.get(recordType, id)));
    const type = this.registry.catalog.recordType(system, recordType);
    return (
      [...found, ...more.flatMap((each) => each ?? [])]
        .map((each) => this.written.before(this.registry.catalog, each))
        // A system that filters more loosely than we compare must not widen the find.
        .filter(({ ref, record }) => !this.written.isCreated(ref) && matches(type, record, search))
    );
  }

  async apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const groups = new Map<string, GuardedChange[]>();
    for (const guarded of changes) {
      const { system, recordType } = guarded.change.ref;
      const key = `${system}/${recordType}`;
      const group = groups.get(key);
      if (group) group.push(guarded);
      else groups.set(key, [guarded]);
    }
    const results = new Map<GuardedChange, ApplyResult>();
    await Promise.all(
      [...groups.values()].map(async (group) => {
        const [first] = group;
        if (!first) return;
        const { system, recordType } = first.change.ref;
        const done = await this.store(system).write(recordType, group);
        group.forEach((guarded, at) => {
          const result = done[at];
          if (result) results.set(guarded, result);
        });
      }),
    );
    return changes.flatMap((guarded) => results.get(guarded) ?? []);
  }

  private store(system: string): RecordStore {
    const store = this.registry.stores.get(system);
    if (store) return store;
    throw new WorkspaceError({ code: 'refused', message: `There is no system “${system}”.`, retry: false });
  }
}
