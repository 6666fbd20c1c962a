import {
  scalarText,
  type DatabaseConnection,
  type Json,
  type JsonObject,
  type RecordType,
  type StoredRecord,
  type System,
} from '@vast-knot/core';
import type { Database } from './database';
import { columnsStatement, type Table } from './statements';
import { oids, written, zoneless } from './values';

/** A record type with its table. */
export interface TypedTable extends Table {
  readonly type: RecordType;
}

/** The tables of a connection, and how their rows become records. */
export class Tables {
  readonly all: readonly TypedTable[];
  private readonly byType: ReadonlyMap<string, TypedTable>;
  private readonly columnTypes = new Map<string, Promise<ReadonlyMap<string, number>>>();

  constructor(
    private readonly connection: DatabaseConnection,
    private readonly system: System,
    private readonly database: Database,
  ) {
    this.all = system.recordTypes.flatMap((type): TypedTable[] => {
      const style = connection.recordTypes[type.name];
      if (!style) return [];
      const columns = type.fields.map(({ name }) => name);
      return [{ type, style, key: type.idField, columns }];
    });
    this.byType = new Map(this.all.map((table) => [table.type.name, table]));
  }

  /** Returns the table of a record type. Throws a WorkspaceError where the connection says nothing of it. */
  of(type: string): TypedTable {
    const table = this.byType.get(type);
    if (!table)
      throw this.database.failure(
        'refused',
        `is not as its connection describes: it says nothing about ${type}.`,
      );
    return table;
  }

  /** Returns the record of a row: its version, then its columns. */
  stored({ type, columns, key }: TypedTable, row: readonly Json[], from = 0): StoredRecord {
    const record: JsonObject = {};
    for (let at = 0; at < columns.length; at++) record[columns[at] ?? ''] = row[from + at + 1] ?? null;
    const version = row[from];
    return {
      ref: { system: this.system.key, recordType: type.name, id: scalarText(record[key]) },
      record,
      ...(typeof version === 'string' && { version }),
    };
  }

  /** Returns a value as a column of this type takes it. */
  written(value: Json | undefined, type: number): Json {
    return written(value, type, this.connection.zone);
  }

  /** Returns a row that the database noted as JSON as it is read otherwise. */
  async ofJson(table: Table, content: JsonObject): Promise<JsonObject> {
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
  typesOf(table: Table): Promise<ReadonlyMap<string, number>> {
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
}

function instantOf(text: string, type: number | undefined, zone: string): string {
  if (type === oids.timestamptz) return text.replace(/\+00:00$/, 'Z');
  return type === oids.timestamp ? zoneless(zone)(text) : text;
}
