import {
  isJsonObject,
  scalarText,
  versionNumber,
  readPointer,
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type JsonObject,
  type LearntType,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import { writeByKind } from '../byKind';
import type { Connector, ConnectorParts, Probe } from '../connector';
import type { EventStyle } from '../events';
import type { PageRequest, RecordsPage, RecordStore } from '../recordStore';
import { Exchange } from './exchange';
import type { HttpConnection } from './httpConnection';
import { learnSchema } from './learnSchema';
import { inParts, nextCursor, pageQuery } from './paging';
import { fill } from './template';
import { createRecords, editRecords, removeRecords, type Writing } from './writing';

/** Speaks to one system over HTTP and JSON, as its connection describes. */
export class HttpConnector implements Connector, RecordStore {
  readonly address: string;
  readonly records = this;
  readonly events: EventStyle;
  readonly takesMany = true;
  private readonly exchange: Exchange;
  private readonly idFields: ReadonlyMap<string, string>;

  constructor(
    private readonly connection: HttpConnection,
    private readonly parts: ConnectorParts,
  ) {
    this.address = connection.baseUrl;
    this.events = connection.events;
    this.exchange = new Exchange(connection, parts);
    this.idFields = new Map(parts.system.recordTypes.map((type) => [type.name, type.idField]));
  }

  async get(type: string, id: string): Promise<StoredRecord | undefined> {
    const path = `${this.pathOf(type)}/${encodeURIComponent(id)}`;
    const answer = await this.exchange.ask({ method: 'GET', path });
    return answer.status === 404 ? undefined : this.stored(type, this.exchange.succeeded(answer));
  }

  async page({ type, ...request }: PageRequest): Promise<RecordsPage> {
    const { list } = this.connection;
    const path = `${this.pathOf(type)}?${pageQuery(list, request).toString()}`;
    const body = this.exchange.succeeded(await this.exchange.ask({ method: 'GET', path }));
    const items = readPointer(body, list.items);
    if (!Array.isArray(items)) throw this.exchange.misunderstood(`its list has nothing at ${list.items}`);
    return { records: items.map((item) => this.stored(type, item)), next: nextCursor(list, body) };
  }

  /** Page by page, until there are no more or enough. */
  async find(type: string, conditions: readonly SearchCondition[], most = Infinity): Promise<StoredRecord[]> {
    const found: StoredRecord[] = [];
    for (const part of inParts(conditions)) {
      let cursor: string | undefined;
      do {
        if (found.length >= most) return found.slice(0, most);
        const limit = Math.min(most - found.length, this.connection.list.limit.most);
        const page = await this.page({ type, limit, cursor, conditions: part });
        found.push(...page.records);
        cursor = page.next ?? undefined;
      } while (cursor !== undefined);
    }
    return found.slice(0, most);
  }

  get getMany(): RecordStore['getMany'] {
    if (!this.connection.list.manyById) return undefined;
    return (type, ids) => this.find(type, [{ field: this.idFields.get(type) ?? 'id', values: ids }]);
  }

  write(type: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const writing: Writing = {
      connection: this.connection,
      exchange: this.exchange,
      path: this.pathOf(type),
      stored: (body) => this.stored(type, body),
    };
    return writeByKind(changes, {
      edit: (edits) => editRecords(writing, edits),
      create: (creations) => createRecords(writing, creations),
      remove: (removals) => removeRecords(writing, removals),
    });
  }

  versionOf(record: JsonObject): number | undefined {
    const { version } = this.connection;
    return version && versionNumber(record[version.field]);
  }

  async listen(url: string, secret: string): Promise<void> {
    const { subscribe } = this.connection;
    if (!subscribe) return;
    const body = Object.fromEntries(
      Object.entries(subscribe.body).map(([name, value]) => [name, fill(value, { url, secret })]),
    );
    const { method, path } = subscribe;
    this.exchange.succeeded(await this.exchange.ask({ method, path, body }));
  }

  learnSchema(): Promise<readonly LearntType[]> {
    return learnSchema(this.connection, this.exchange);
  }

  async probe(): Promise<Probe> {
    const [type] = Object.keys(this.connection.recordTypes);
    if (type === undefined) return { answers: false, because: 'Its connection names no record type.' };
    const began = performance.now();
    try {
      await this.page({ type, limit: 1 });
      return { answers: true, milliseconds: Math.round(performance.now() - began) };
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      return { answers: false, because: thrown.problem.message };
    }
  }

  private pathOf(type: string): string {
    const path = this.connection.recordTypes[type]?.path;
    if (path === undefined) throw this.exchange.misunderstood(`its connection says nothing about ${type}`);
    return path;
  }

  private stored(type: string, body: unknown): StoredRecord {
    if (!isJsonObject(body)) throw this.exchange.misunderstood('it sent something that is not a record');
    const { version: versions } = this.connection;
    const id = body[this.idFields.get(type) ?? 'id'];
    const version = versions && body[versions.field];
    return {
      ref: { system: this.parts.system.key, recordType: type, id: scalarText(id) },
      record: body,
      ...(version !== undefined && version !== null && { version: scalarText(version) }),
    };
  }
}
