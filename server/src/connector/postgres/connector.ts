import {
  matches,
  notingEndStatements,
  notingStatements,
  plainTimeIn,
  printJson,
  versionNumber,
  WorkspaceError,
  type ApplyResult,
  type DatabaseConnection,
  type GuardedChange,
  type Json,
  type JsonObject,
  type Listening,
  type RecordType,
  type RowWrite,
  type SearchCondition,
  type StoredRecord,
  type Telling,
} from '@vast-knot/core';
import { unanswered, writeByKind, type Guarded } from '../byKind';
import type { Connector, ConnectorParts, Probe, SelfDescription } from '../connector';
import { pagesOf, type PageRequest, type RecordsPage, type RecordStore } from '../recordStore';
import { createdBefore, eachAlone, editsHold, failed } from '../writing';
import { readCatalogue } from './catalogue';
import { Database } from './database';
import { NotedChanges } from './noted';
import { isUnfitting } from './sqlProblem';
import {
  columnsStatement,
  deleteStatement,
  insertStatement,
  pageStatement,
  textOf,
  updateStatement,
  type RowEdit,
  type Table,
} from './statements';
import { oids, written, zoneless } from './values';

/** Rows that one statement reads, and changes. */
const mostRead = 5000;
const mostWritten = 500;

/** A record type with its table. */
interface TypedTable extends Table {
  readonly type: RecordType;
}

/** Reads and writes the rows of a PostgreSQL database, as its connection describes. */
export class PostgresConnector implements Connector, RecordStore {
  readonly address: string;
  readonly records = this;
  readonly told: Telling | undefined = undefined;
  readonly takesMany = true;
  readonly describes = true;
  readonly noted: NotedChanges | undefined;
  private readonly database: Database;
  private readonly tables: ReadonlyMap<string, TypedTable>;
  private readonly columnTypes = new Map<string, Promise<ReadonlyMap<string, number>>>();

  constructor(
    private readonly connection: DatabaseConnection,
    private readonly parts: ConnectorParts,
  ) {
    this.database = new Database(connection, parts);
    this.address = connection.baseUrl;
    this.tables = new Map(
      parts.system.recordTypes.flatMap((type): [string, TypedTable][] => {
        const style = connection.recordTypes[type.name];
        if (!style) return [];
        const columns = type.fields.map(({ name }) => name);
        return [[type.name, { type, style, key: type.idField, columns }]];
      }),
    );
    const noting = [...this.tables.values()].filter(({ style }) => style.listening?.noted);
    this.noted =
      noting.length > 0
        ? new NotedChanges(this.database, noting, (type, content) => this.ofJson(type, content))
        : undefined;
  }

  async get(type: string, id: string): Promise<StoredRecord | undefined> {
    return (await this.getMany(type, [id]))[0];
  }

  async getMany(type: string, ids: readonly string[]): Promise<readonly StoredRecord[]> {
    return this.find(type, [{ field: this.table(type).key, values: ids }]);
  }

  async page(request: PageRequest): Promise<RecordsPage> {
    const { type, cursor, search = '', conditions = [], since } = request;
    const table = this.table(type);
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
    const table = this.table(type);
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
    const table = this.table(type);
    const refused = (what: RowWrite, words: string): ApplyResult | undefined =>
      table.style.writes.includes(what)
        ? undefined
        : {
            ok: false,
            problem: this.database.failure(
              'refused',
              `lets no rows of ${table.type.plural} be ${words}: its connection says so.`,
            ).problem,
          };
    return writeByKind(changes, {
      edit: (edits) => this.edit(table, edits, refused('change', 'changed')),
      create: (creations) =>
        eachAlone(creations, (creation) => {
          const no = refused('create', 'created');
          return no ? Promise.resolve(no) : this.create(table, creation);
        }),
      remove: (removals) =>
        eachAlone(removals, (removal) => {
          const no = refused('remove', 'removed');
          return no ? Promise.resolve(no) : this.remove(table, removal);
        }),
    });
  }

  versionOf(type: string, record: JsonObject): number | undefined {
    const { version } = this.table(type).style;
    return version.kind === 'field' ? versionNumber(record[version.field]) : undefined;
  }

  listeningOf(type: string): Listening {
    const { type: recordType, style } = this.table(type);
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
    const { style, key } = this.table(type);
    // Each may be run again, so that a try that failed is only repeated.
    for (const sql of on ? notingStatements(style, key) : notingEndStatements(style))
      await this.database.run({ sql });
  }

  private async rows(
    table: TypedTable,
    statement: ReturnType<typeof pageStatement>,
  ): Promise<StoredRecord[]> {
    try {
      const { rows } = await this.database.attempt(statement);
      return rows.map((row) => this.stored(table, row));
    } catch (thrown) {
      if (isUnfitting(thrown)) throw new Unfitting(this.database.problem(thrown).problem);
      throw thrown instanceof WorkspaceError ? thrown : this.database.problem(thrown);
    }
  }

  /** Returns the record of a row: its version, then its columns. */
  private stored({ type, columns, key }: TypedTable, row: readonly Json[], from = 0): StoredRecord {
    const record: JsonObject = {};
    for (let at = 0; at < columns.length; at++) record[columns[at] ?? ''] = row[from + at + 1] ?? null;
    const version = row[from];
    return {
      ref: { system: this.parts.system.key, recordType: type.name, id: textOf(record[key] ?? null) },
      record,
      ...(typeof version === 'string' && { version }),
    };
  }

  private async edit(
    table: TypedTable,
    edits: readonly Guarded<'edit'>[],
    refused: ApplyResult | undefined,
  ): Promise<readonly ApplyResult[]> {
    if (refused) return edits.map(() => refused);
    const results = new Map<Guarded<'edit'>, ApplyResult>();
    let open = [...edits];
    while (open.length > 0) {
      // A statement changes a row once: of several edits of one, each has its turn.
      const turn = [...new Map([...open].reverse().map((edit) => [edit.change.ref.id, edit])).values()].slice(
        0,
        mostWritten,
      );
      open = open.filter((edit) => !turn.includes(edit));
      const done = await this.editRows(table, turn);
      turn.forEach((edit, at) => results.set(edit, done[at] ?? unanswered));
    }
    return edits.map((edit) => results.get(edit) ?? unanswered);
  }

  private async editRows(
    table: TypedTable,
    edits: readonly Guarded<'edit'>[],
  ): Promise<readonly ApplyResult[]> {
    try {
      const types = await this.typesOf(table);
      const rows = edits.map((guarded) => this.rowEdit(table, types, guarded));
      const items = rows.map(({ key, ...rest }) => ({ ...rest, key: { [table.key]: key } }));
      const answer = await this.database.attempt(updateStatement(table, rows, printJson(items)));
      const found = new Map(
        answer.rows.map(([at, done, ...row]) => [
          Number(at),
          { done: done === true, now: this.stored(table, row) },
        ]),
      );
      return edits.map((guarded, at) => this.edited(table, guarded, found.get(at + 1)));
    } catch (thrown) {
      if (thrown instanceof WorkspaceError) return edits.map(() => failed(thrown));
      // The trouble of one is not that of the others.
      if (edits.length > 1)
        return eachAlone(edits, async (one) => (await this.editRows(table, [one]))[0] ?? unanswered);
      return edits.map(() => failed(this.database.problem(thrown)));
    }
  }

  private rowEdit(
    table: TypedTable,
    types: ReadonlyMap<string, number>,
    { change, version }: Guarded<'edit'>,
  ): RowEdit {
    const before: JsonObject = {};
    const set: JsonObject = {};
    for (const edit of change.edits) {
      const type = types.get(edit.path);
      if (type === undefined)
        throw this.database.failure(
          'refused',
          `has no column “${edit.path}” in ${table.style.table}: only whole columns are written.`,
        );
      set[edit.path] = this.written(edit.after, type);
      // There is no telling whether two values of type json are the same.
      if (type !== oids.json) before[edit.path] = this.written(edit.before, type);
    }
    return { key: change.ref.id, version, before, set };
  }

  private edited(
    { type }: TypedTable,
    { change, version }: Guarded<'edit'>,
    found: { readonly done: boolean; readonly now: StoredRecord } | undefined,
  ): ApplyResult {
    const label = `${type.label} ${change.ref.id}`;
    if (!found) return failed(this.database.failure('not found', `has no ${label}.`));
    const { record, version: then } = found.now;
    // What is there already may be our own write of before.
    if (found.done || editsHold(type, record, change.edits, 'after'))
      return { ok: true, record, ...(then !== undefined && { version: then }) };
    return failed(
      this.database.failure(
        'changed in between',
        `: ${label} was changed by somebody else in between${version === undefined ? '' : ` (${version} → ${then ?? 'none'})`}.`,
      ),
    );
  }

  private async create(table: TypedTable, { change, again }: Guarded<'create'>): Promise<ApplyResult> {
    const { type, style, key } = table;
    const own = change.record[key];
    if (again) {
      const there =
        own !== undefined && own !== null && own !== ''
          ? await this.get(type.name, textOf(own))
          : await createdBefore(
              {
                type,
                failure: (code, what) => this.database.failure(code, what),
                find: (values) =>
                  this.find(
                    type.name,
                    Object.entries(values).map(([field, value]) => ({ field, values: [value ?? null] })),
                  ),
              },
              style.naturalKey,
              change.record,
            );
      if (there) return made(there);
    }
    const types = await this.typesOf(table);
    const record: JsonObject = {};
    for (const [name, value] of Object.entries(change.record)) {
      const column = types.get(name);
      if (column === undefined)
        throw this.database.failure('refused', `has no column “${name}” in ${style.table}.`);
      record[name] = this.written(value, column);
    }
    const { rows } = await this.database.run(insertStatement(table, record, printJson(record)));
    const [row] = rows;
    // Rules and triggers of the database may have put the row elsewhere.
    if (!row) throw this.database.failure('refused', `created no ${type.label}, and says no reason.`);
    return made(this.stored(table, row));
  }

  private async remove(table: TypedTable, { change, version }: Guarded<'remove'>): Promise<ApplyResult> {
    const { rows } = await this.database.run(deleteStatement(table, change.ref.id, version));
    if (rows.length === 0) return { ok: true, record: undefined };
    throw this.database.failure(
      'changed in between',
      `: ${table.type.label} ${change.ref.id} was changed by somebody else in between.`,
    );
  }

  private written(value: Json | undefined, type: number): Json {
    return written(value, type, this.connection.zone);
  }

  /** Returns a row that the database noted as JSON as it is read otherwise. */
  private async ofJson(table: Table, content: JsonObject): Promise<JsonObject> {
    const types = await this.typesOf(table);
    return Object.fromEntries(
      table.columns.map((column) => {
        const value = content[column] ?? null;
        return [
          column,
          typeof value === 'string' ? instantOf(value, types.get(column), this.connection.zone) : value,
        ];
      }),
    );
  }

  /** Returns the types of the columns, which the database tells once. */
  private typesOf(table: Table): Promise<ReadonlyMap<string, number>> {
    const key = JSON.stringify([table.style.schema, table.style.table]);
    const known = this.columnTypes.get(key);
    if (known) return known;
    const asked = this.database
      .run(columnsStatement(table))
      .then(
        ({ columns }) => new Map(table.columns.map((name, at) => [name, columns[at + 1]?.dataTypeID ?? 0])),
      );
    this.columnTypes.set(key, asked);
    asked.catch(() => this.columnTypes.delete(key));
    return asked;
  }

  private async since(
    table: TypedTable,
    mark: number,
  ): Promise<{ readonly field: string; readonly from: string } | undefined> {
    const { asked } = table.style.listening ?? {};
    if (!asked) return undefined;
    const type = (await this.typesOf(table)).get(asked.field);
    const isTime = type === oids.timestamp || type === oids.timestamptz || type === oids.date;
    if (!isTime) return { field: asked.field, from: String(mark) };
    const at = new Date(Math.max(0, mark - asked.overlapSeconds * 1000)).toISOString();
    return {
      field: asked.field,
      from: type === oids.timestamp ? (plainTimeIn(this.connection.zone, at) ?? at) : at,
    };
  }

  /** As `split`; times are told as the columns hold them. */
  private async askable(
    table: TypedTable,
    conditions: readonly SearchCondition[],
  ): Promise<readonly [readonly SearchCondition[], readonly SearchCondition[]]> {
    const [here, there] = this.split(table, conditions);
    const isTime = ({ field }: SearchCondition) =>
      table.type.fields.some(({ name, type }) => name === field && type === 'datetime');
    if (!there.some(isTime)) return [here, there];
    const types = await this.typesOf(table);
    return [
      here,
      there.map((one) => ({
        ...one,
        values: one.values.map((value) => this.written(value, types.get(one.field) ?? 0)),
      })),
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

  private table(type: string): TypedTable {
    const table = this.tables.get(type);
    if (!table)
      throw this.database.failure(
        'refused',
        `is not as its connection describes: it says nothing about ${type}.`,
      );
    return table;
  }
}

/** A value was looked for that its column cannot hold. */
class Unfitting extends WorkspaceError {}

function made({ ref, record, version }: StoredRecord): ApplyResult {
  return { ok: true, id: ref.id, record, ...(version !== undefined && { version }) };
}

function instantOf(text: string, type: number | undefined, zone: string): string {
  if (type === oids.timestamptz) return text.replace(/\+00:00$/, 'Z');
  return type === oids.timestamp ? zoneless(zone)(text) : text;
}
