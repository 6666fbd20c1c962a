import type { Dispatcher } from 'undici';
import {
  Catalog,
  compileRule,
  TableIndex,
  type CompiledRule,
  type Rule,
  type RuleBody,
  type System,
} from '@vast-knot/core';
import type { Connection } from '../connector/connection';
import { HttpConnector } from '../connector/httpConnector';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { listTables, toLookupTable } from '../tables/repository';

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
  readonly connectors: ReadonlyMap<string, HttpConnector>;
  readonly webhookSecrets: ReadonlyMap<string, string>;
}

/** Keeps the compiled rules and connectors of this process, and renews them when anything in the registry changed. */
export class RegistryCache {
  private current: Promise<Registry> | undefined;
  private revision = '';

  constructor(
    private readonly pool: Pool,
    private readonly seal: Seal,
    private readonly dispatcher: Dispatcher,
    private readonly allowedOutbound: readonly string[],
  ) {}

  async get(): Promise<Registry> {
    const { rows } = await this.pool.query<{ revision: string }>(
      'SELECT last_value || is_called::text AS revision FROM registry_revision',
    );
    const revision = rows[0]?.revision ?? '';
    if (!this.current || revision !== this.revision) {
      this.revision = revision;
      this.current = this.load(revision);
      this.current.catch(() => (this.current = undefined));
    }
    return this.current;
  }

  private async load(revision: string): Promise<Registry> {
    const [systems, secrets, tables, rules] = await Promise.all([
      this.pool.query<{ definition: System; connection: Connection }>(
        'SELECT definition, connection FROM systems ORDER BY position',
      ),
      this.pool.query<{ system: string; name: string; sealed: Buffer }>(
        'SELECT system, name, sealed FROM secrets',
      ),
      listTables(this.pool),
      this.pool.query<{ id: string; version: number; body: RuleBody }>(
        `SELECT rules.id, version, body FROM rules
         JOIN rule_versions ON rule_id = rules.id AND version = published ORDER BY position`,
      ),
    ]);
    const catalog = new Catalog(systems.rows.map(({ definition }) => definition));
    const indexes = new Map(
      tables.map((table) => [table.definition.name, new TableIndex(toLookupTable(table))]),
    );
    const secret = new Map(
      secrets.rows.map(({ system, name, sealed }) => [`${system}/${name}`, this.seal.open(sealed)]),
    );
    const compiled = rules.rows.map(({ id, version, body }) => {
      const rule: Rule = { ...body, id, version };
      return { rule, result: compileRule(rule, { catalog, tables: indexes }) };
    });
    const connections = new Map(
      systems.rows.map(({ definition, connection }) => [definition.key, connection]),
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
      connectors: new Map(
        systems.rows.map(({ definition, connection }) => [
          definition.key,
          new HttpConnector({
            system: definition.key,
            connection,
            idFields: new Map(definition.recordTypes.map((type) => [type.name, type.idField])),
            token: secret.get(`${definition.key}/token`) ?? '',
            dispatcher: this.dispatcher,
            allowedOutbound: this.allowedOutbound,
          }),
        ]),
      ),
      webhookSecrets: new Map(
        systems.rows.map(({ definition }) => [definition.key, secret.get(`${definition.key}/webhook`) ?? '']),
      ),
    };
  }
}
