import {
  matches,
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type RecordRef,
  type Search,
  type StoredRecord,
  type Workspace,
} from '@vast-knot/core';
import { gathered } from '../connector/gatheredStore';
import type { RecordStore } from '../connector/recordStore';
import type { Registry } from './registry';

/** The live systems, as the engine sees them. What several runs ask of a system in the same moment is asked once. */
export class ConnectedWorkspace implements Workspace {
  constructor(private readonly registry: Registry) {}

  async get(ref: RecordRef): Promise<StoredRecord | undefined> {
    // What only tells of rows and answers has none that could be read.
    const connector = this.registry.connectors.get(ref.system);
    if (connector && !connector.records) return undefined;
    return this.store(ref.system).get(ref.recordType, ref.id);
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const { system, recordType, conditions, peek } = search;
    const found = await this.store(system).find(recordType, conditions, peek);
    const type = this.registry.catalog.recordType(system, recordType);
    // A system that filters more loosely than we compare must not widen the find.
    return found.filter(({ record }) => matches(type, record, search));
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
    if (store) return gathered(store);
    throw new WorkspaceError({ code: 'refused', message: `There is no system “${system}”.`, retry: false });
  }
}
