import { request as send, type Dispatcher } from 'undici';
import {
  isJsonObject,
  readPointer,
  WorkspaceError,
  writePath,
  type ApplyResult,
  type GuardedChange,
  type Json,
  type JsonObject,
  type Problem,
  type RecordChange,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import type { Connection } from './connection';
import { refusedUrl } from './outbound';
import type { RecordStore } from './recordStore';

export interface ConnectorOptions {
  readonly system: string;
  readonly connection: Connection;
  readonly idFields: ReadonlyMap<string, string>;
  readonly token: string;
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
}

interface Answer {
  readonly status: number;
  readonly body: unknown;
}

/** Values of one condition sent in one request; longer lists are asked for in parts. */
const valuesAtOnce = 100;
const largestAnswer = 32 * 1024 * 1024;

/** Speaks to one system over HTTP and JSON, as its connection describes. */
export class HttpConnector implements RecordStore {
  constructor(private readonly options: ConnectorOptions) {}

  async get(recordType: string, id: string): Promise<StoredRecord | undefined> {
    const answer = await this.ask('GET', `${this.path(recordType)}/${encodeURIComponent(id)}`);
    if (answer.status === 404) return undefined;
    return this.stored(recordType, this.succeeded(answer));
  }

  async page(
    recordType: string,
    search: string,
    cursor: string | undefined,
    limit: number,
    conditions: readonly SearchCondition[] = [],
  ): Promise<{ records: StoredRecord[]; next: string | null }> {
    const { list } = this.options.connection;
    const query = new URLSearchParams();
    query.set(list.limit.name, String(Math.min(limit, list.limit.most)));
    if (search !== '') query.set(list.search, search);
    if (cursor !== undefined) query.set(list.cursor, cursor);
    for (const condition of conditions) this.filter(query, condition);
    const body = this.succeeded(await this.ask('GET', `${this.path(recordType)}?${query.toString()}`));
    const items = readPointer(body, list.items);
    const next = readPointer(body, list.next);
    if (!Array.isArray(items)) throw this.misunderstood(`its list has nothing at ${list.items}`);
    return {
      records: items.map((item) => this.stored(recordType, item)),
      next: typeof next === 'string' && next !== '' ? next : null,
    };
  }

  /** Page by page, until there are no more or enough. */
  async find(
    recordType: string,
    conditions: readonly SearchCondition[],
    most = Infinity,
  ): Promise<StoredRecord[]> {
    const long = conditions.find(({ values }) => values.length > valuesAtOnce);
    if (long) {
      const found: StoredRecord[] = [];
      for (let at = 0; at < long.values.length; at += valuesAtOnce) {
        const part = { field: long.field, values: long.values.slice(at, at + valuesAtOnce) };
        found.push(
          ...(await this.find(
            recordType,
            conditions.map((each) => (each === long ? part : each)),
            most - found.length,
          )),
        );
      }
      return found;
    }
    const found: StoredRecord[] = [];
    let cursor: string | undefined;
    do {
      const page = await this.page(
        recordType,
        '',
        cursor,
        Math.min(most - found.length, this.options.connection.list.limit.most),
        conditions,
      );
      found.push(...page.records);
      cursor = page.next ?? undefined;
    } while (cursor !== undefined && found.length < most);
    return found.slice(0, most);
  }

  async patchMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]> {
    const { bulk } = this.options.connection;
    const results: ApplyResult[] = [];
    for (let at = 0; at < changes.length; at += bulk.size) {
      results.push(...(await this.patchBatch(recordType, changes.slice(at, at + bulk.size))));
    }
    return results;
  }

  async createMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]> {
    const { create } = this.options.connection;
    const results: ApplyResult[] = [];
    for (const { change, key } of changes) {
      try {
        if (!create)
          throw this.failure('refused', 'cannot create records: its connection does not say how.', false);
        const path = fill(create.path, { path: this.path(recordType) });
        const { record: fields } = change as Extract<RecordChange, { kind: 'create' }>;
        const headers = key === undefined ? {} : { [create.keyHeader]: key };
        const body = this.succeeded(await this.ask(create.method, path, fields, headers));
        const { record, version, ref } = this.stored(recordType, body);
        results.push({ ok: true, id: ref.id, record, ...(version !== undefined && { version }) });
      } catch (thrown) {
        if (!(thrown instanceof WorkspaceError)) throw thrown;
        results.push({ ok: false, problem: thrown.problem });
      }
    }
    return results;
  }

  async removeMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]> {
    const { remove, version: versions } = this.options.connection;
    const results: ApplyResult[] = [];
    for (const { change, version } of changes) {
      try {
        if (!remove)
          throw this.failure('refused', 'cannot remove records: its connection does not say how.', false);
        const { id } = change.ref;
        const path = fill(remove.path, { path: this.path(recordType), id: encodeURIComponent(id) });
        const guard =
          versions && version !== undefined ? { 'if-match': fill(versions.ifMatch, { version }) } : {};
        const answer = await this.ask(remove.method, path, remove.body, guard);
        if (answer.status !== 404) this.succeeded(answer);
        results.push({ ok: true, record: undefined });
      } catch (thrown) {
        if (!(thrown instanceof WorkspaceError)) throw thrown;
        results.push({ ok: false, problem: thrown.problem });
      }
    }
    return results;
  }

  /** Asks the system to send its events to `url`, signed with `secret`. */
  async subscribe(url: string, secret: string): Promise<void> {
    const { subscribe } = this.options.connection;
    if (!subscribe) return;
    const body = Object.fromEntries(
      Object.entries(subscribe.body).map(([name, value]) => [name, fill(value, { url, secret })]),
    );
    this.succeeded(await this.ask(subscribe.method, subscribe.path, body));
  }

  private async patchBatch(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]> {
    const { bulk, version } = this.options.connection;
    const items = changes.map(({ change, version: at, key }) => {
      const parts: Record<string, unknown> = {
        id: change.ref.id,
        ifMatch: version && at !== undefined ? fill(version.ifMatch, { version: at }) : undefined,
        key,
        changes: change.kind === 'edit' ? mergePatchOf(change.edits) : {},
      };
      return Object.fromEntries(
        Object.entries(bulk.item).map(([name, part]) => [name, parts[part.slice(1, -1)]]),
      );
    });
    try {
      const path = fill(bulk.path, { path: this.path(recordType) });
      const body = this.succeeded(await this.ask(bulk.method, path, { [bulk.items]: items }));
      const results = readPointer(body, bulk.results);
      if (!Array.isArray(results) || results.length !== changes.length) {
        throw this.misunderstood(`its bulk answer has not one result for each item at ${bulk.results}`);
      }
      return results.map((result) => this.applied(recordType, result));
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      return changes.map(() => ({ ok: false, problem: thrown.problem }));
    }
  }

  private applied(recordType: string, result: unknown): ApplyResult {
    const { bulk } = this.options.connection;
    const status = Number(readPointer(result, bulk.status));
    if (status >= 200 && status < 300) {
      const { record, version } = this.stored(recordType, readPointer(result, bulk.record));
      return { ok: true, record, ...(version !== undefined && { version }) };
    }
    return { ok: false, problem: this.problemOf({ status, body: readPointer(result, bulk.problem) }) };
  }

  private filter(query: URLSearchParams, { field, values }: SearchCondition): void {
    const style = this.options.connection.list.filter;
    const texts = values.map((value) => String(value ?? ''));
    if (style.kind === 'parameter per field') {
      for (const value of texts) query.append(fill(style.name, { field }), value);
    } else if (texts.length === 1) {
      query.append(style.name, fill(style.equal, { field, value: texts[0] ?? '' }));
    } else {
      query.append(
        style.name,
        fill(style.oneOf, { field, values: texts.map(encodeURIComponent).join(style.separator) }),
      );
    }
  }

  private path(recordType: string): string {
    const path = this.options.connection.recordTypes[recordType]?.path;
    if (path === undefined) throw this.misunderstood(`its connection says nothing about ${recordType}`);
    return path;
  }

  private stored(recordType: string, body: unknown): StoredRecord {
    if (!isJsonObject(body)) throw this.misunderstood('it sent something that is not a record');
    const { system, connection, idFields } = this.options;
    const id = body[idFields.get(recordType) ?? 'id'];
    const version = connection.version && body[connection.version.field];
    return {
      ref: { system, recordType, id: String(id ?? '') },
      record: body,
      ...(version !== undefined && version !== null && { version: String(version) }),
    };
  }

  private async ask(
    method: Dispatcher.HttpMethod,
    path: string,
    body?: unknown,
    more: Readonly<Record<string, string>> = {},
  ): Promise<Answer> {
    const { connection, token, dispatcher, allowedOutbound } = this.options;
    const url = new URL(connection.baseUrl.replace(/\/$/, '') + path);
    const refused = refusedUrl(url, allowedOutbound);
    if (refused) throw this.failure('refused', `cannot be reached: ${refused}`, false);
    try {
      const response = await send(url, {
        method,
        dispatcher,
        headers: {
          accept: 'application/json',
          [connection.auth.header]: fill(connection.auth.value, { token }),
          ...(body !== undefined && { 'content-type': 'application/json' }),
          ...more,
        },
        ...(body !== undefined && { body: JSON.stringify(body) }),
        signal: AbortSignal.timeout(30_000),
      });
      const chunks: Buffer[] = [];
      let size = 0;
      for await (const chunk of response.body as AsyncIterable<Buffer>) {
        size += chunk.length;
        if (size > largestAnswer) throw this.failure('too many', 'sent an answer that is too large.', false);
        chunks.push(chunk);
      }
      const text = Buffer.concat(chunks).toString('utf8');
      return { status: response.statusCode, body: text === '' ? null : parseOr(text) };
    } catch (thrown) {
      if (thrown instanceof WorkspaceError) throw thrown;
      const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
      throw this.failure('unavailable', `does not answer (${why}).`, true);
    }
  }

  private succeeded(answer: Answer): unknown {
    if (answer.status >= 200 && answer.status < 300) return answer.body;
    throw new WorkspaceError(this.problemOf(answer));
  }

  private problemOf({ status, body }: Answer): Problem {
    const told = isJsonObject(body) ? (body['detail'] ?? body['title']) : undefined;
    const detail = typeof told === 'string' ? told : `it answered ${status}`;
    const message = `${this.options.system}: ${detail}`;
    if (status === 404) return { code: 'not found', message, retry: false };
    if (status === 409 || status === 412) return { code: 'changed in between', message, retry: true };
    if (status === 429 || status >= 500)
      return { code: 'unavailable', message: `${message} (${status})`, retry: true };
    return { code: 'refused', message, retry: false };
  }

  private misunderstood(what: string): WorkspaceError {
    return this.failure('refused', `is not as its connection describes: ${what}.`, false);
  }

  private failure(code: Problem['code'], what: string, retry: boolean): WorkspaceError {
    return new WorkspaceError({ code, message: `${this.options.system} ${what}`, retry });
  }
}

/** `{name}` in a template becomes the value of that name. */
function fill(template: string, values: Readonly<Record<string, string>>): string {
  return template.replace(/\{(\w+)\}/g, (whole, name: string) => values[name] ?? whole);
}

/** Edits as a JSON Merge Patch (RFC 7396): blank becomes null, which removes. */
export function mergePatchOf(
  edits: readonly { readonly path: string; readonly after: Json | undefined }[],
): JsonObject {
  return edits.reduce<JsonObject>((patch, edit) => writePath(patch, edit.path, edit.after ?? null), {});
}

function parseOr(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    // An answer that is not JSON (a proxy's error page) still has a status that tells enough.
    return { detail: text.slice(0, 200) };
  }
}
