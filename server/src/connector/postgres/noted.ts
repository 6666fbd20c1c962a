import {
  notedChanges,
  qualified,
  readPath,
  scalarText,
  type EventKind,
  type JsonObject,
} from '@vast-knot/core';
import type { Noted, NotedSource } from '../connector';
import type { Database } from './database';
import { type Table } from './statements';

/** Changes that are fetched at a time. */
const most = 500;

interface NotingTable extends Table {
  readonly type: { readonly name: string };
}

/** What triggers of a database noted: it is fetched in its order, and let go once it is kept here. */
export class NotedChanges implements NotedSource {
  readonly recordTypes: readonly string[];
  private readonly schemas: readonly string[];

  constructor(
    private readonly database: Database,
    private readonly tables: readonly NotingTable[],
    private readonly read: (table: Table, content: JsonObject) => Promise<JsonObject>,
  ) {
    this.recordTypes = tables.map(({ type }) => type.name);
    this.schemas = [...new Set(tables.map(({ style }) => style.schema))];
  }

  async oldest(): Promise<readonly Noted[]> {
    const all: Noted[] = [];
    for (const schema of this.schemas) {
      const own = this.tables.filter(({ style }) => style.schema === schema);
      const { rows } = await this.database.run({
        sql: `SELECT id, noted_at, of_table, kind, content FROM ${this.notes(schema)} WHERE of_table = ANY ($1) ORDER BY id LIMIT ${most}`,
        values: [own.map(({ style }) => style.table)],
      });
      for (const [id, at, name, kind, content] of rows) {
        const table = own.find(({ style }) => style.table === name);
        if (!table) continue;
        const record = await this.read(table, content as JsonObject);
        all.push({
          id: `${schema}/${scalarText(id)}`,
          at: String(at),
          kind: kind as EventKind,
          recordType: table.type.name,
          recordId: scalarText(readPath(record, table.key)),
          record,
        });
      }
    }
    return all;
  }

  async letGo(ids: readonly string[]): Promise<void> {
    for (const schema of this.schemas) {
      const own = ids.filter((id) => id.startsWith(`${schema}/`)).map((id) => id.slice(schema.length + 1));
      if (own.length > 0)
        await this.database.run({
          sql: `DELETE FROM ${this.notes(schema)} WHERE id = ANY ($1)`,
          values: [own],
        });
    }
  }

  hear(news: () => void, ended: () => void): Promise<() => void> {
    return this.database.hear(notedChanges, news, ended);
  }

  private notes(schema: string): string {
    return qualified({ schema, table: notedChanges });
  }
}
