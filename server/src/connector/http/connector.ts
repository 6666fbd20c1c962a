import {
  canAskFor,
  fillAll,
  fillPath,
  idOf,
  isJsonObject,
  limitOf,
  listRequest,
  matches,
  questionsFor,
  readList,
  sinceParameters,
  styleOf,
  unwrapped,
  versionIn,
  versionNumber,
  WorkspaceError,
  readPath,
  type ApplyResult,
  type GuardedChange,
  type HttpConnection,
  type JsonObject,
  type ListAsked,
  type Listening,
  type RecordType,
  type SearchCondition,
  type StoredRecord,
  type Telling,
  type TypeStyle,
} from '@vast-knot/core';
import { writeByKind } from '../byKind';
import type { Connector, ConnectorParts, Probe, SelfDescription } from '../connector';
import { pagesOf, type PageRequest, type RecordsPage, type RecordStore } from '../recordStore';
import { Exchange } from './exchange';
import { fetchText } from './fetchText';
import { editAlone } from './writing/alone';
import { editInBulk } from './writing/bulk';
import { createRecords } from './writing/create';
import { removeRecords } from './writing/remove';
import type { ReadRecord, Writing } from './writing/writing';

/** Records of a page, where the connection does not say how many there may be. */
const usualPage = 500;

/** Speaks to one system over HTTP and JSON, as its connection describes. */
export class HttpConnector implements Connector, RecordStore {
  readonly address: string;
  readonly records = this;
  readonly told: Telling | undefined;
  readonly describes: boolean;
  private readonly exchange: Exchange;
  readonly takesMany: boolean;
  readonly getMany: RecordStore['getMany'];
  private readonly types: ReadonlyMap<string, RecordType>;
  private readonly styles: ReadonlyMap<string, TypeStyle>;

  constructor(
    private readonly connection: HttpConnection,
    private readonly parts: ConnectorParts,
  ) {
    this.address = connection.baseUrl;
    this.told = connection.told;
    this.describes = connection.document !== undefined;
    this.exchange = new Exchange(connection, parts);
    this.types = new Map(parts.system.recordTypes.map((type) => [type.name, type]));
    this.styles = new Map(
      Object.keys(connection.recordTypes).flatMap((name) => {
        const style = styleOf(connection, name);
        return style ? [[name, style]] : [];
      }),
    );
    const every = (fits: (style: TypeStyle) => boolean) =>
      this.styles.size > 0 && [...this.styles.values()].every(fits);
    this.takesMany = every(({ changing }) => changing?.kind === 'bulk');
    this.getMany = every(({ list, one }) => list.manyById === true || one.kind === 'list')
      ? (type, ids) => this.find(type, [{ field: this.idField(type), values: ids }])
      : undefined;
  }

  async get(type: string, id: string): Promise<StoredRecord | undefined> {
    const found = await this.read(type, id);
    if (!found) return undefined;
    // The tag of the answer is for who writes next, and no part of the record.
    const { etag: _etag, ...stored } = found;
    return stored;
  }

  async page(request: PageRequest): Promise<RecordsPage> {
    const { type, limit, cursor, search, conditions = [], since } = request;
    const style = this.style(type);
    const [question, ...others] = questionsFor(style.list.filter, conditions);
    // What takes several questions is looked through here.
    const parameters = [
      ...(question && others.length === 0 ? question : []),
      ...(since !== undefined && style.listening?.asked ? sinceParameters(style.listening.asked, since) : []),
    ];
    const page = await this.list(type, style, { cursor, limit, search, parameters });
    const meets = this.lookedThrough(type, conditions, others.length > 0);
    return { ...page, records: page.records.filter(meets) };
  }

  /** Page by page, until there are no more or enough. */
  async find(type: string, conditions: readonly SearchCondition[], most = Infinity): Promise<StoredRecord[]> {
    const style = this.style(type);
    const found = new Map<string, StoredRecord>();
    const meets = this.lookedThrough(type, conditions);
    const whole = limitOf(style.list.paging)?.most ?? usualPage;
    const narrowed = conditions.every(({ field }) => canAskFor(style.list.filter, field));
    for (const parameters of questionsFor(style.list.filter, conditions)) {
      const ask = (request: PageRequest) =>
        this.list(type, style, {
          cursor: request.cursor,
          // Where most of a page is looked through in vain, small pages would be many.
          limit: narrowed ? Math.min(most - found.size, whole) : whole,
          parameters,
        });
      for await (const records of pagesOf({ page: ask }, { type, limit: usualPage })) {
        for (const stored of records) if (meets(stored)) found.set(stored.ref.id, stored);
        if (found.size >= most) return [...found.values()].slice(0, most);
      }
    }
    return [...found.values()];
  }

  write(type: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return this.writeWith(this.writing(type), changes);
  }

  /** Writes a field of a record with the value that it has, to see what the system says to it. */
  writeAsIs(type: string, change: GuardedChange): Promise<readonly ApplyResult[]> {
    return this.writeWith({ ...this.writing(type), asItIs: true }, [change]);
  }

  private writing(type: string): Writing {
    const style = this.style(type);
    return {
      type: this.types.get(type),
      style,
      exchange: this.exchange,
      stored: (body) => this.stored(type, style, body),
      read: (id) => this.read(type, id),
      find: (values) =>
        this.find(
          type,
          Object.entries(values).map(([field, value]) => ({ field, values: [value ?? null] })),
        ),
    };
  }

  private writeWith(writing: Writing, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const { style } = writing;
    return writeByKind(changes, {
      edit: (edits) => {
        const { changing } = style;
        const because = 'cannot change records: its connection does not say how.';
        const problem = changing ? undefined : this.exchange.failure('refused', because).problem;
        if (problem) return Promise.resolve(edits.map(() => ({ ok: false, problem })));
        return changing?.kind === 'bulk'
          ? editInBulk(writing, changing, edits)
          : changing
            ? editAlone(writing, changing, edits)
            : Promise.resolve([]);
      },
      create: (creations) => createRecords(writing, creations),
      remove: (removals) => removeRecords(writing, removals),
    });
  }

  versionOf(type: string, record: JsonObject): number | undefined {
    const { version } = this.style(type);
    return version.kind === 'field' ? versionNumber(readPath(record, version.field)) : undefined;
  }

  listeningOf(type: string): Listening {
    return this.style(type).listening ?? {};
  }

  async listen(url: string, secret: string): Promise<void> {
    const { subscribe } = this.connection;
    if (!subscribe) return;
    const { method, path } = subscribe;
    const body = fillAll(subscribe.body, { url, secret });
    this.exchange.succeeded(await this.exchange.ask({ method, path, body: { ...body } }));
  }

  async document(): Promise<SelfDescription> {
    const { document, recordTypes } = this.connection;
    if (document === undefined)
      throw this.exchange.failure('refused', 'does not describe itself: its connection names no document.');
    const address = new URL(document.startsWith('/') ? this.address.replace(/\/$/, '') + document : document);
    if (address.origin === new URL(this.address).origin)
      return {
        kind: 'document',
        text: await this.exchange.text(address.href),
        address: address.href,
        recordTypes,
      };
    // Elsewhere one does not sign in.
    const fetched = await fetchText(address.href, this.parts);
    if (fetched.ok) return { kind: 'document', ...fetched, recordTypes };
    throw this.exchange.failure('unavailable', `describes itself elsewhere. ${fetched.because}`);
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

  /** Reads one page of a list. Throws a WorkspaceError where there is none. */
  private async list(type: string, style: TypeStyle, asked: ListAsked): Promise<RecordsPage> {
    const request = listRequest(style, asked);
    const answer = await this.exchange.ask(request);
    // Some systems answer so to the page after the last (common practice, no source).
    if (answer.status === 404 && asked.cursor !== undefined) return { records: [], next: null };
    this.exchange.succeeded(answer);
    const read = readList(style.list, answer, asked);
    if (!read.ok) throw this.exchange.misunderstood(`its list ${read.because}`);
    return {
      records: read.records.map((record) => this.stored(type, style, record)),
      next: this.nextAddress(style, request.path, read.next),
      ...(read.total !== undefined && { total: read.total }),
    };
  }

  /** The address of a next page may be told as a part of one (RFC 8288, 3.1). */
  private nextAddress({ list }: TypeStyle, path: string, next: string | null): string | null {
    const isAddress = list.paging.kind === 'link' || list.paging.kind === 'address';
    if (next === null || !isAddress) return next;
    const here = this.exchange.addressOf(path);
    if (!URL.canParse(next, here.href))
      throw this.exchange.misunderstood(`its next page is said to be “${next.slice(0, 200)}”`);
    return new URL(next, here).href;
  }

  private async read(type: string, id: string): Promise<ReadRecord | undefined> {
    const style = this.style(type);
    const { one } = style;
    if (one.kind === 'list') {
      const idField = this.idField(type);
      const [found] = await this.find(type, [{ field: idField, values: [id] }]);
      return found && { ...found, etag: undefined };
    }
    const path = fillPath(one.path, { path: style.path, id });
    if (path === undefined) return undefined;
    const answer = await this.exchange.ask({ method: 'GET', path });
    if (answer.status === 404 || answer.status === 410) return undefined;
    const stored = this.stored(type, style, unwrapped(this.exchange.succeeded(answer), one.record));
    // Another record than the one that was asked for is not that record.
    if (stored.ref.id !== id) return undefined;
    return { ...stored, etag: answer.headers['etag'] };
  }

  /** Returns whether a record meets those conditions that the system could not be asked for; all of them, where it was asked for none. */
  private lookedThrough(
    type: string,
    conditions: readonly SearchCondition[],
    all = false,
  ): (stored: StoredRecord) => boolean {
    const { filter } = this.style(type).list;
    // Where the system was asked, whoever searches compares anyway.
    const own = all ? conditions : conditions.filter(({ field }) => !canAskFor(filter, field));
    if (own.length === 0) return () => true;
    const search = { system: this.parts.system.key, recordType: type, conditions: own };
    return ({ record }) => matches(this.types.get(type), record, search);
  }

  private idField(type: string): string {
    return this.types.get(type)?.idField ?? 'id';
  }

  private style(type: string): TypeStyle {
    const style = this.styles.get(type);
    if (!style) throw this.exchange.misunderstood(`its connection says nothing about ${type}`);
    return style;
  }

  private stored(type: string, style: TypeStyle, body: unknown): StoredRecord {
    if (!isJsonObject(body)) throw this.exchange.misunderstood('it sent something that is not a record');
    const id = idOf(this.idField(type), body);
    if (id === undefined)
      throw this.exchange.misunderstood(`it sent a record that has no id at ${this.idField(type)}`);
    const version = versionIn(style, body);
    return {
      ref: { system: this.parts.system.key, recordType: type, id },
      record: body,
      ...(version !== undefined && { version }),
    };
  }
}
