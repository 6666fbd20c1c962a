import type { Dispatcher } from 'undici';
import {
  Catalog,
  compileRule,
  ownDefinition,
  ownSystem,
  TableIndex,
  type CompiledRule,
  type Rule,
  type RuleBody,
  type System,
} from '@vast-knot/core';
import { isConnected, type Connection, type Inlet } from '../connector/connection';
import { HttpConnector } from '../connector/httpConnector';
import { PairStore } from '../connector/pairStore';
import type { RecordStore } from '../connector/recordStore';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { listTables, toLookupTable } from '../tables/repository';

/** An outside address that messages are sent to. */
export interface Endpoint {
  readonly key: string;
  readonly name: string;
  readonly url: string;
  readonly secret: string;
}

/** Everything a run is computed with, as it was at one moment. */
export interface Registry {
  readonly revision: string;
  readonly catalog: Catalog;
  readonly tables: ReadonlyMap<string, TableIndex>;
  /** The published rules, in their order. */
  readonly rules: readonly CompiledRule[];
  /** Published rules that no longer fit their surroundings, with the reason. */
  readonly broken: readonly { readonly rule: Rule; readonly because: string }[];
  readonly connections: ReadonlyMap<string, Connection>;
  /** Systems that only tell. */
  readonly inlets: ReadonlyMap<string, Inlet>;
  readonly connectors: ReadonlyMap<string, HttpConnector>;
  /** Where records are, by system: those behind connectors, and our own. */
  readonly stores: ReadonlyMap<string, RecordStore>;
  readonly endpoints: ReadonlyMap<string, Endpoint>;
  readonly webhookSecrets: ReadonlyMap<string, string>;
}

const recentMs = 250;

/** Keeps the compiled rules and connectors of this process, and renews them when anything in the registry changed. */
export class RegistryCache {
  private current: Promise<Registry> | undefined;
  private revision = '';
  private checkedAt = 0;

  constructor(
    private readonly pool: Pool,
    private readonly seal: Seal,
    private readonly dispatcher: Dispatcher,
    private readonly allowedOutbound: readonly string[],
  ) {}

  /** The registry as it was a moment ago at most: for what comes in masses and would ask each time. */
  async recent(): Promise<Registry> {
    if (this.current && Date.now() - this.checkedAt < recentMs) return this.current;
    return this.get();
  }

  async get(): Promise<Registry> {
    const { rows } = await this.pool.query<{ revision: string }>(
      'SELECT last_value || is_called::text AS revision FROM registry_revision',
    );
    const revision = rows[0]?.revision ?? '';
    this.checkedAt = Date.now();
    if (!this.current || revision !== this.revision) {
      this.revision = revision;
      this.current = this.load(revision);
      this.current.catch(() => (this.current = undefined));
    }
    return this.current;
  }

  private async load(revision: string): Promise<Registry> {
    const [systems, secrets, tables, rules, endpoints] = await Promise.all([
      this.pool.query<{ definition: System; connection: Connection | Inlet }>(
        'SELECT definition, connection FROM systems ORDER BY position',
      ),
      this.pool.query<{ system: string; name: string; sealed: Buffer }>(
        'SELECT system, name, sealed FROM secrets',
      ),
      listTables(this.pool),
      this.pool.query<{ id: string; version: number; body: RuleBody }>(
        `SELECT rules.id, version, body FROM rules
         JOIN rule_versions ON rule_id = rules.id AND version = published ORDER BY position, rules.id`,
      ),
      this.pool.query<Omit<Endpoint, 'secret'> & { sealed: Buffer }>(
        'SELECT key, name, url, sealed FROM endpoints ORDER BY name',
      ),
    ]);
    const catalog = new Catalog([...systems.rows.map(({ definition }) => definition), ownDefinition]);
    const indexes = new Map(
      tables.map((table) => [table.definition.name, new TableIndex(toLookupTable(table))]),
    );
    const secret = new Map(
      secrets.rows.map(({ system, name, sealed }) => [`${system}/${name}`, this.seal.open(sealed)]),
    );
    const known = new Map(
      rules.rows.map(({ id, version, body }): [string, Rule] => [id, { ...body, id, version }]),
    );
    const surroundings = {
      catalog,
      tables: indexes,
      rules: known,
      endpoints: new Set(endpoints.rows.map(({ key }) => key)),
    };
    const compiled = [...known.values()].map((rule) => ({ rule, result: compileRule(rule, surroundings) }));
    const connections = new Map<string, Connection>();
    const inlets = new Map<string, Inlet>();
    for (const { definition, connection } of systems.rows) {
      if (isConnected(connection)) connections.set(definition.key, connection);
      else inlets.set(definition.key, connection);
    }
    const connectors = new Map(
      systems.rows.flatMap(({ definition, connection }): [string, HttpConnector][] =>
        isConnected(connection)
          ? [
              [
                definition.key,
                new HttpConnector({
                  system: definition.key,
                  connection,
                  idFields: new Map(definition.recordTypes.map((type) => [type.name, type.idField])),
                  token: secret.get(`${definition.key}/token`) ?? '',
                  dispatcher: this.dispatcher,
                  allowedOutbound: this.allowedOutbound,
                }),
              ],
            ]
          : [],
      ),
    );
    return {
      revision,
      catalog,
      tables: indexes,
      rules: compiled.flatMap(({ result }) => (result.ok ? [result.compiled] : [])),
      broken: compiled.flatMap(({ rule, result }) =>
        result.ok ? [] : [{ rule, because: result.problems[0]?.error.message ?? 'it does not compile' }],
      ),
      connections,
      inlets,
      connectors,
      stores: new Map<string, RecordStore>([...connectors, [ownSystem, new PairStore(this.pool)]]),
      endpoints: new Map(
        endpoints.rows.map(({ sealed, ...endpoint }) => [
          endpoint.key,
          { ...endpoint, secret: this.seal.open(sealed) },
        ]),
      ),
      webhookSecrets: new Map(
        systems.rows.map(({ definition }) => [definition.key, secret.get(`${definition.key}/webhook`) ?? '']),
      ),
    };
  }
}
