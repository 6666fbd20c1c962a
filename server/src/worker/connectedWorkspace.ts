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
import type { HttpConnector } from '../connector/httpConnector';
import type { Registry } from '../registry/registry';

/** The live systems, as the engine sees them. */
export class ConnectedWorkspace implements Workspace {
  constructor(private readonly registry: Registry) {}

  get(ref: RecordRef): Promise<StoredRecord | undefined> {
    return this.connector(ref.system).get(ref.recordType, ref.id);
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const found = await this.connector(search.system).find(search.recordType, search.conditions);
    const type = this.registry.catalog.recordType(search.system, search.recordType);
    // A system that filters more loosely than we compare must not widen the find.
    return found.filter(({ record }) => matches(type, record, search));
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
        const connector = this.connector(ref.system);
        const done =
          kind === 'create'
            ? await connector.createMany(ref.recordType, group.changes)
            : await connector.patchMany(ref.recordType, group.changes);
        done.forEach((result, index) => {
          const at = group.at[index];
          if (at !== undefined) results[at] = result;
        });
      }),
    );
    return results;
  }

  private connector(system: string): HttpConnector {
    const connector = this.registry.connectors.get(system);
    if (connector) return connector;
    throw new WorkspaceError({ code: 'refused', message: `There is no system “${system}”.`, retry: false });
  }
}
