import type { Dispatcher } from 'undici';
import {
  Catalog,
  ownDefinition,
  ownSystem,
  type CompiledRule,
  type Rule,
  type System,
  type TableIndex,
} from '@vast-knot/core';
import type { WatchedExchange } from '../connector/exchanged';
import { openConnector } from '../connector/connection';
import type { Connector } from '../connector/connector';
import type { GateLimits } from '../connector/gate';
import type { Gates } from '../connector/gates';
import { PairStore } from '../connector/pairStore';
import type { RecordStore } from '../connector/recordStore';
import { Gather } from '../db/gather';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import type { Seal } from '../db/seal';
import { readEndpoints, type Endpoint } from '../endpoints/repository';
import { pausedRules, publishedRules } from '../rules/repository';
import { readSystems, type KeptSystem } from '../systems/repository';
import { readTableIndexes } from '../tables/repository';
import { compileAll, type Compilations } from './compileAll';

/** Everything a run is computed with, as it was at one moment. */
export interface Registry {
  /** Changes with whatever is defined. */
  readonly stamp: string;
  readonly catalog: Catalog;
  readonly tables: ReadonlyMap<string, TableIndex>;
  /** The published rules, in their order. */
  readonly rules: readonly CompiledRule[];
  /** The rules, by id, that somebody paused. */
  readonly paused: ReadonlySet<string>;
  /** Published rules that no longer fit their surroundings, with the reason. */
  readonly broken: readonly { readonly rule: Rule; readonly because: string }[];
  /** The connected systems. */
  readonly connectors: ReadonlyMap<string, Connector>;
  /** Where records are, by system: those behind connectors, and our own. */
  readonly stores: ReadonlyMap<string, RecordStore>;
  readonly endpoints: ReadonlyMap<string, Endpoint>;
  /** The names of the folders that rules may write files into. */
  readonly folders: ReadonlySet<string>;
  readonly webhookSecrets: ReadonlyMap<string, string>;
}

type Part = 'system' | 'table' | 'rule' | 'endpoint';

/** Names of the things of a part that changed. */
type Changed = Readonly<Record<Part, ReadonlySet<string>>>;

/** What a process holds, from which a registry is made. */
interface Held {
  readonly systems: ReadonlyMap<string, KeptSystem>;
  readonly connectors: ReadonlyMap<string, Connector>;
  readonly tables: ReadonlyMap<string, TableIndex>;
  readonly endpoints: ReadonlyMap<string, Endpoint>;
  readonly rules: readonly Rule[];
  readonly paused: ReadonlySet<string>;
  readonly compilations: Compilations;
  readonly registry: Registry;
}

/** Where the registry of a process comes from. */
export interface RegistrySource {
  /** Returns it as it is now. */
  get(): Promise<Registry>;
  /** Returns it as it was a moment ago at most: for what comes in masses and would ask each time. */
  recent(): Promise<Registry>;
}

/** How systems are reached from this process. */
export interface Outside {
  readonly dispatcher: Dispatcher;
  readonly gates: Gates;
  /** `host:port` of private addresses that may be reached all the same. */
  readonly allowedOutbound: readonly string[];
  /** Hears of every exchange with a system. */
  readonly watch?: (system: System, watched: WatchedExchange) => void;
  /** Hears of every message that comes from a system, or in its name, and whether it was taken. */
  readonly came?: (system: System, watched: WatchedExchange, what: 'taken' | 'refused') => void;
}

const recentMs = 250;

/** Keeps the compiled rules and connectors of this process, and renews those that changed, and what is made of them. */
export class RegistryCache implements RegistrySource {
  private held: Promise<Held> | undefined;
  private revisions: ReadonlyMap<string, string> = new Map();
  private sum = '';
  private checkedAt = 0;
  /** Those who ask in the same moment look once. */
  private readonly checks = new Gather(
    async (all: readonly undefined[]) => {
      const current = await this.check();
      return all.map(() => current);
    },
    { mayBeOnes: () => false },
  );

  constructor(
    private readonly pool: Pool,
    private readonly seal: Seal,
    private readonly outside: Outside,
    private readonly folders: ReadonlySet<string> = new Set(),
  ) {}

  async recent(): Promise<Registry> {
    if (this.held && Date.now() - this.checkedAt < recentMs) return (await this.held).registry;
    return this.get();
  }

  get(): Promise<Registry> {
    return this.checks.do(undefined);
  }

  /** Returns what is defined by now, and reads what was changed since. */
  private async check(): Promise<Registry> {
    // Every change gives one thing a greater revision, so that their sum never stays the same, in whatever order they arrive.
    const { rows } = await this.pool.query<{ sum: string }>(
      'SELECT coalesce(sum(revision), 0)::text AS sum FROM registry_items',
    );
    const sum = rows[0]?.sum ?? '';
    this.checkedAt = Date.now();
    if (!this.held || sum !== this.sum) {
      this.sum = sum;
      const before = this.held;
      const next = this.renew(before);
      this.held = next;
      next.catch(() => {
        if (this.held === next) this.held = undefined;
      });
    }
    return (await this.held).registry;
  }

  /** Reads revisions and what changed in one snapshot, so that they belong together. */
  private async renew(before: Promise<Held> | undefined): Promise<Held> {
    const held = await before?.catch(() => undefined);
    return inTransaction(this.pool, async (client) => {
      await client.query('SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY');
      const { rows } = await client.query<{ part: Part; name: string; revision: string }>(
        'SELECT part, name, revision FROM registry_items',
      );
      const known = held ? this.revisions : new Map<string, string>();
      const changedIn = (part: Part) =>
        new Set(
          rows
            .filter((row) => row.part === part && known.get(`${part}/${row.name}`) !== row.revision)
            .map(({ name }) => name),
        );
      const changed: Changed = {
        system: changedIn('system'),
        table: changedIn('table'),
        rule: changedIn('rule'),
        endpoint: changedIn('endpoint'),
      };
      const stamp = rows.reduce((sum, { revision }) => sum + BigInt(revision), 0n).toString();
      const next = await this.load(client, held, { changed, stamp });
      this.revisions = new Map(rows.map(({ part, name, revision }) => [`${part}/${name}`, revision]));
      return next;
    });
  }

  private async load(
    runner: Runner,
    held: Held | undefined,
    { changed, stamp }: { readonly changed: Changed; readonly stamp: string },
  ): Promise<Held> {
    const systems = await this.renewedSystems(runner, held, changed.system);
    const connectors = this.renewedConnectors(systems, held, changed.system);
    const tables = renewed(
      held?.tables,
      changed.table,
      changed.table.size > 0 ? await readTableIndexes(runner, [...changed.table]) : new Map(),
    );
    const endpoints =
      held && changed.endpoint.size === 0
        ? held.endpoints
        : new Map((await readEndpoints(runner, this.seal)).map((each) => [each.key, each]));
    const rules = held && changed.rule.size === 0 ? held.rules : await publishedRules(runner);
    const paused = held && changed.rule.size === 0 ? held.paused : await pausedRules(runner);
    const catalog =
      held && changed.system.size === 0
        ? held.registry.catalog
        : new Catalog([...[...systems.values()].map(({ definition }) => definition), ownDefinition]);
    const compilations = compileAll({
      rules,
      surroundings: { catalog, tables, endpoints: new Set(endpoints.keys()), folders: this.folders },
      // Another record type or endpoint may concern any rule.
      known: changed.system.size + changed.endpoint.size > 0 ? undefined : held?.compilations,
      changedRules: changed.rule,
      changedTables: changed.table,
    });
    const stores = [...connectors].flatMap(([key, { records }]): [string, RecordStore][] =>
      records ? [[key, records]] : [],
    );
    return {
      systems,
      connectors,
      tables,
      endpoints,
      rules,
      paused,
      compilations,
      registry: {
        stamp,
        catalog,
        tables,
        ...compilations.told,
        paused,
        connectors,
        stores: new Map<string, RecordStore>([...stores, [ownSystem, new PairStore(this.pool)]]),
        endpoints,
        folders: this.folders,
        webhookSecrets: new Map([...systems].map(([key, { secrets }]) => [key, secrets['webhook'] ?? ''])),
      },
    };
  }

  private async renewedSystems(
    runner: Runner,
    held: Held | undefined,
    changed: ReadonlySet<string>,
  ): Promise<ReadonlyMap<string, KeptSystem>> {
    if (held && changed.size === 0) return held.systems;
    const keys = [...new Set([...(held?.systems.keys() ?? []), ...changed])];
    // All of them, since their order may be another.
    return new Map((await readSystems(runner, this.seal, keys)).map((each) => [each.definition.key, each]));
  }

  private renewedConnectors(
    systems: ReadonlyMap<string, KeptSystem>,
    held: Held | undefined,
    changed: ReadonlySet<string>,
  ): ReadonlyMap<string, Connector> {
    const { dispatcher, gates, allowedOutbound, watch } = this.outside;
    return new Map(
      [...systems].map(([key, { definition, connection, secrets, paused }]) => {
        const known = changed.has(key) ? undefined : held?.connectors.get(key);
        const token = secrets['token'] ?? '';
        const gateWith = (limits: Partial<GateLimits>) =>
          gates.of(key, { ...limits, paused }, definition.name);
        return [
          key,
          known ??
            openConnector(connection, {
              system: definition,
              token,
              dispatcher,
              gateWith,
              allowedOutbound,
              watch: watch && ((watched) => watch(definition, watched)),
            }),
        ];
      }),
    );
  }
}

/** Returns the things of a part with those that changed anew; what changed and is not there any more is left out. */
function renewed<T>(
  held: ReadonlyMap<string, T> | undefined,
  changed: ReadonlySet<string>,
  fresh: ReadonlyMap<string, T>,
): ReadonlyMap<string, T> {
  if (held && changed.size === 0) return held;
  const kept = [...(held ?? [])].filter(([name]) => !changed.has(name));
  return new Map([...kept, ...fresh]);
}
