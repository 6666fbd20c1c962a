import {
  readPointer,
  WorkspaceError,
  writePath,
  type ApplyResult,
  type Json,
  type JsonObject,
  type StoredRecord,
} from '@vast-knot/core';
import type { Guarded } from '../byKind';
import type { Exchange } from './exchange';
import type { HttpConnection } from './httpConnection';
import { fill } from './template';

/** What writing needs of a connector. */
export interface Writing {
  readonly connection: HttpConnection;
  readonly exchange: Exchange;
  /** The path of the record type. */
  readonly path: string;
  /** Reads a record as the system sends it. Throws a WorkspaceError when it is none. */
  readonly stored: (body: unknown) => StoredRecord;
}

/** Edits records, as many at a time as the system takes. */
export async function editRecords(
  writing: Writing,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const { size } = writing.connection.bulk;
  const results: ApplyResult[] = [];
  for (let at = 0; at < changes.length; at += size) {
    results.push(...(await editBatch(writing, changes.slice(at, at + size))));
  }
  return results;
}

async function editBatch(
  writing: Writing,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const { connection, exchange } = writing;
  const { bulk, version } = connection;
  const items = changes.map(({ change, version: at, key }) => {
    const parts: Record<string, unknown> = {
      id: change.ref.id,
      ifMatch:
        version?.ifMatch !== undefined && at !== undefined
          ? fill(version.ifMatch, { version: at })
          : undefined,
      key,
      changes: mergePatchOf(change.edits),
    };
    return Object.fromEntries(
      Object.entries(bulk.item).map(([name, part]) => [name, parts[part.slice(1, -1)]]),
    );
  });
  try {
    const path = fill(bulk.path, { path: writing.path });
    const answer = await exchange.ask({ method: bulk.method, path, body: { [bulk.items]: items } });
    const results = readPointer(exchange.succeeded(answer), bulk.results);
    if (!Array.isArray(results) || results.length !== changes.length) {
      throw exchange.misunderstood(`its bulk answer has not one result for each item at ${bulk.results}`);
    }
    // One item that is not as it should be is its own trouble.
    return results.map((result) => {
      try {
        return edited(writing, result);
      } catch (thrown) {
        return failed(thrown);
      }
    });
  } catch (thrown) {
    return changes.map(() => failed(thrown));
  }
}

function edited({ connection, exchange, stored }: Writing, result: unknown): ApplyResult {
  const { bulk } = connection;
  const status = Number(readPointer(result, bulk.status));
  if (status < 200 || status >= 300) {
    return { ok: false, problem: exchange.problemOf({ status, body: readPointer(result, bulk.problem) }) };
  }
  const { record, version } = stored(readPointer(result, bulk.record));
  return { ok: true, record, ...(version !== undefined && { version }) };
}

/** Creates records one by one, each with its key. */
export async function createRecords(
  { connection: { create }, exchange, path, stored }: Writing,
  changes: readonly Guarded<'create'>[],
): Promise<readonly ApplyResult[]> {
  return eachAlone(changes, async ({ change, key }) => {
    if (!create) throw exchange.failure('refused', 'cannot create records: its connection does not say how.');
    const answer = await exchange.ask({
      method: create.method,
      path: fill(create.path, { path }),
      body: change.record,
      headers: key === undefined ? {} : { [create.keyHeader]: key },
    });
    const { record, version, ref } = stored(exchange.succeeded(answer));
    return { ok: true, id: ref.id, record, ...(version !== undefined && { version }) };
  });
}

/** Removes records one by one; one that is gone already is removed. */
export async function removeRecords(
  { connection: { remove, version: versions }, exchange, path }: Writing,
  changes: readonly Guarded<'remove'>[],
): Promise<readonly ApplyResult[]> {
  return eachAlone(changes, async ({ change, version }) => {
    if (!remove) throw exchange.failure('refused', 'cannot remove records: its connection does not say how.');
    const answer = await exchange.ask({
      method: remove.method,
      path: fill(remove.path, { path, id: encodeURIComponent(change.ref.id) }),
      body: remove.body,
      headers:
        versions?.ifMatch !== undefined && version !== undefined
          ? { 'if-match': fill(versions.ifMatch, { version }) }
          : {},
    });
    if (answer.status !== 404) exchange.succeeded(answer);
    return { ok: true, record: undefined };
  });
}

/** Makes changes one after the other; one that fails leaves the others alone. */
async function eachAlone<C>(
  changes: readonly C[],
  make: (change: C) => Promise<ApplyResult>,
): Promise<readonly ApplyResult[]> {
  const results: ApplyResult[] = [];
  for (const change of changes) results.push(await make(change).catch(failed));
  return results;
}

/** Returns what a failure of the system means for a change; anything else is a mistake of ours and goes on. */
function failed(thrown: unknown): ApplyResult {
  if (!(thrown instanceof WorkspaceError)) throw thrown;
  return { ok: false, problem: thrown.problem };
}

/** Returns edits as a JSON Merge Patch (RFC 7396): blank becomes null, which removes. */
export function mergePatchOf(
  edits: readonly { readonly path: string; readonly after: Json | undefined }[],
): JsonObject {
  return edits.reduce<JsonObject>((patch, edit) => writePath(patch, edit.path, edit.after ?? null), {});
}
