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

/** How long the records that are looked through for what was near are kept. */
const hintMs = 10_000;
const hints = new WeakMap<
  RecordStore,
  Map<string, { readonly until: number; readonly found: Promise<readonly StoredRecord[]> }>
>();

/**
 * Returns records to look through for what was near. With a thousand events of which none finds its record, they are read once in a
 * while instead of a thousand times.
 */
function hinted(
  store: RecordStore,
  type: string,
  most: number | undefined,
): Promise<readonly StoredRecord[]> {
  const known: NonNullable<ReturnType<typeof hints.get>> = hints.get(store) ?? new Map();
  hints.set(store, known);
  const key = `${type} ${most}`;
  const kept = known.get(key);
  if (kept && kept.until > Date.now()) return kept.found;
  const found = store.find(type, [], most);
  known.set(key, { until: Date.now() + hintMs, found });
  // What could not be read is asked for again.
  found.catch(() => known.delete(key));
  return found;
}

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
    const { system, recordType, conditions, peek, hint } = search;
    if (hint && conditions.length === 0) return hinted(this.store(system), recordType, peek);
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
