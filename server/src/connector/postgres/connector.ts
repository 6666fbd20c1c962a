import {
  matches,
  notingEndStatements,
  notingStatements,
  plainTimeIn,
  versionNumber,
  WorkspaceError,
  type ApplyResult,
  type DatabaseConnection,
  type GuardedChange,
  type JsonObject,
  type Listening,
  type SearchCondition,
  type StoredRecord,
  type Telling,
} from '@vast-knot/core';
import type { Connector, ConnectorParts, Probe, SelfDescription } from '../connector';
import { pagesOf, type PageRequest, type RecordsPage, type RecordStore } from '../recordStore';
import { readCatalogue } from './catalogue';
import { Database } from './database';
import { NotedChanges } from './noted';
import { isUnfitting } from './sqlProblem';
import { pageStatement } from './statements';
import { Tables, type TypedTable } from './tables';
import { canHold, oids } from './values';
import { writeRows } from './writing';

/** Rows that one statement reads. */
const mostRead = 5000;

/** Reads and writes the rows of a PostgreSQL database, as its connection describes. */
export class PostgresConnector implements Connector, RecordStore {
  readonly address: string;
  readonly records = this;
  readonly told: Telling | undefined = undefined;
  readonly takesMany = true;
  readonly describes = true;
  readonly noted: NotedChanges | undefined;
  private readonly database: Database;
  private readonly tables: Tables;

  constructor(
    private readonly connection: DatabaseConnection,
    private readonly parts: ConnectorParts,
  ) {
    this.database = new Database(connection, parts);
    this.address = connection.baseUrl;
    this.tables = new Tables(connection, parts.system, this.database);
    const noting = this.tables.all.filter(({ style }) => style.listening?.noted);
    this.noted =
      noting.length > 0
        ? new NotedChanges(this.database, noting, (table, content) => this.tables.ofJson(table, content))
        : undefined;
  }

  async get(type: string, id: string): Promise<StoredRecord | undefined> {
    return (await this.getMany(type, [id]))[0];
  }

  async getMany(type: string, ids: readonly string[]): Promise<readonly StoredRecord[]> {
    return this.find(type, [{ field: this.tables.of(type).key, values: ids }]);
  }

  async page(request: PageRequest): Promise<RecordsPage> {
    const { type, cursor, search = '', conditions = [], since } = request;
    const table = this.tables.of(type);
    const limit = Math.min(request.limit, mostRead);
    const asked = since === undefined ? undefined : await this.since(table, since);
    const [here, there] = await this.askable(table, conditions);
    const rows = await this.rows(
      table,
      pageStatement(table, {
        after: cursor,
        limit,
        conditions: there,
        since: asked,
        search:
          search.trim() === ''
            ? undefined
            : { text: search.trim(), columns: [table.key, table.type.nameField] },
      }),
    );
    const last = rows.at(-1)?.ref.id;
    return {
      records: rows.filter((stored) => this.meets(table, stored, here)),
      next: rows.length < limit || last === undefined ? null : last,
    };
  }

  async find(type: string, conditions: readonly SearchCondition[], most = Infinity): Promise<StoredRecord[]> {
    const table = this.tables.of(type);
    const [here, there] = this.split(table, conditions);
    const found: StoredRecord[] = [];
    const page = (request: PageRequest) => this.page({ ...request, conditions: there });
    try {
      const limit = here.length > 0 ? mostRead : Math.min(most, mostRead);
      for await (const records of pagesOf({ page }, { type, limit })) {
        for (const stored of records) if (this.meets(table, stored, here)) found.push(stored);
        if (found.length >= most) return found.slice(0, most);
      }
      return found;
    } catch (thrown) {
      if (!(thrown instanceof Unfitting)) throw thrown;
      // A value that the type of its column cannot hold is in no row. The others may be.
      const several = there.find(({ values }) => values.length > 1);
      if (!several) return [];
      const each = await Promise.all(
        several.values.map((value) =>
          this.find(
            type,
            conditions.map((one) => (one === several ? { ...one, values: [value] } : one)),
            most,
          ),
        ),
      );
      const once = new Map(each.flat().map((stored) => [stored.ref.id, stored]));
      return [...once.values()].slice(0, most);
    }
  }

  write(type: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return writeRows(this.tables.of(type), changes, {
      tables: this.tables,
      database: this.database,
      get: (id) => this.get(type, id),
      find: (conditions) => this.find(type, conditions),
    });
  }

  versionOf(type: string, record: JsonObject): number | undefined {
    const { version } = this.tables.of(type).style;
    return version.kind === 'field' ? versionNumber(record[version.field]) : undefined;
  }

  listeningOf(type: string): Listening {
    const { type: recordType, style } = this.tables.of(type);
    const { asked, compared } = style.listening ?? {};
    const field = recordType.fields.find(({ name }) => name === asked?.field);
    return {
      ...(asked && {
        asked: { ...asked, parameters: {}, form: field?.type === 'integer' ? 'number' : 'date-time' },
      }),
      ...(compared && { compared }),
    };
  }

  /** A database sends nothing: what it notes is fetched. */
  listen(): Promise<void> {
    return Promise.resolve();
  }

  async document(): Promise<SelfDescription> {
    return {
      kind: 'catalogue',
      tables: await readCatalogue(this.database),
      recordTypes: this.connection.recordTypes,
    };
  }

  async probe(): Promise<Probe> {
    const began = performance.now();
    try {
      await this.database.run({ sql: 'SELECT 1' });
      return { answers: true, milliseconds: Math.round(performance.now() - began) };
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      return { answers: false, because: thrown.problem.message };
    }
  }

  async note(type: string, on: boolean): Promise<void> {
    const { style, key } = this.tables.of(type);
    // Each may be run again, so that a try that failed is only repeated.
    for (const sql of on
      ? notingStatements(style, { key, user: this.connection.user })
      : notingEndStatements(style))
      await this.database.run({ sql });
  }

  private async rows(
    table: TypedTable,
    statement: ReturnType<typeof pageStatement>,
  ): Promise<StoredRecord[]> {
    try {
      const { rows } = await this.database.attempt(statement);
      return rows.map((row) => this.tables.stored(table, row));
    } catch (thrown) {
      if (isUnfitting(thrown)) throw new Unfitting(this.database.problem(thrown).problem);
      throw thrown instanceof WorkspaceError ? thrown : this.database.problem(thrown);
    }
  }

  private async since(
    table: TypedTable,
    mark: number,
  ): Promise<{ readonly field: string; readonly from: string } | undefined> {
    const { asked } = table.style.listening ?? {};
    if (!asked) return undefined;
    const type = (await this.tables.typesOf(table)).get(asked.field);
    const isTime = type === oids.timestamp || type === oids.timestamptz || type === oids.date;
    if (!isTime) return { field: asked.field, from: String(mark) };
    const at = new Date(Math.max(0, mark - asked.overlapSeconds * 1000)).toISOString();
    return {
      field: asked.field,
      from: type === oids.timestamp ? (plainTimeIn(this.connection.zone, at) ?? at) : at,
    };
  }

  /** As `split`; what the database is asked for is what its columns can hold, as they hold it. */
  private async askable(
    table: TypedTable,
    conditions: readonly SearchCondition[],
  ): Promise<readonly [readonly SearchCondition[], readonly SearchCondition[]]> {
    const [here, there] = this.split(table, conditions);
    if (there.length === 0) return [here, there];
    const types = await this.tables.typesOf(table);
    return [
      here,
      there.map(({ field, values }) => {
        const type = types.get(field) ?? 0;
        const fitting = values.filter((value) => canHold(type, value));
        return { field, values: fitting.map((value) => this.tables.written(value, type)) };
      }),
    ];
  }

  /** Returns the conditions that are looked through here, and those that the database is asked for. */
  private split(
    { type }: TypedTable,
    conditions: readonly SearchCondition[],
  ): readonly [readonly SearchCondition[], readonly SearchCondition[]] {
    const asks = ({ field }: SearchCondition) => {
      const known = type.fields.find(({ name }) => name === field);
      return known !== undefined && known.type !== 'object' && known.type !== 'list';
    };
    return [conditions.filter((one) => !asks(one)), conditions.filter(asks)];
  }

  private meets(
    { type }: TypedTable,
    { record }: StoredRecord,
    conditions: readonly SearchCondition[],
  ): boolean {
    return (
      conditions.length === 0 ||
      matches(type, record, { system: this.parts.system.key, recordType: type.name, conditions })
    );
  }
}

/** A value was looked for that its column cannot hold. */
class Unfitting extends WorkspaceError {}
