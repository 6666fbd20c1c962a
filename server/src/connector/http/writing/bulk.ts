import { fill, mergePatchOf, readPointer, type ApplyResult, type BulkChanging } from '@vast-knot/core';
import { unanswered, type Guarded } from '../../byKind';
import { eachAlone, failed } from '../../writing';
import { ifMatchOf, lookBefore, type Writing } from './writing';

/** Edits records, as many at a time as the system takes. */
export async function editInBulk(
  writing: Writing,
  bulk: BulkChanging,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const { version } = writing.style;
  const takesVersion = version.kind === 'field' && version.ifMatch !== undefined;
  const guards = takesVersion && Object.values(bulk.item).includes('{ifMatch}');
  const results: ApplyResult[] = [];
  for (let at = 0; at < changes.length; at += bulk.size) {
    const batch = changes.slice(at, at + bulk.size);
    results.push(...(await (guards ? sendBatch(writing, bulk, batch) : lookAndSend(writing, bulk, batch))));
  }
  return results;
}

/** Sends those edits of a batch whose records are still as they were planned for. */
async function lookAndSend(
  writing: Writing,
  bulk: BulkChanging,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const open: Guarded<'edit'>[] = [];
  const looked = await eachAlone(changes, async (guarded) => {
    const found = await lookBefore(writing, guarded);
    if (found.is === 'settled') return found.result;
    open.push(guarded);
    return unanswered;
  });
  const sent = open.length > 0 ? await sendBatch(writing, bulk, open) : [];
  const answers = new Map(open.map((guarded, at) => [guarded, sent[at]]));
  return changes.map((guarded, at) => answers.get(guarded) ?? looked[at] ?? unanswered);
}

async function sendBatch(
  writing: Writing,
  bulk: BulkChanging,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const { style, exchange } = writing;
  const items = changes.map(({ change, version, key }) => {
    const parts: Record<string, unknown> = {
      id: change.ref.id,
      ifMatch: ifMatchOf(style, version),
      key,
      changes: mergePatchOf(change.edits),
    };
    return Object.fromEntries(
      Object.entries(bulk.item).map(([name, part]) => [name, parts[part.slice(1, -1)]]),
    );
  });
  try {
    const path = fill(bulk.path, { path: style.path });
    const answer = await exchange.ask({
      method: bulk.method,
      path,
      // What is undefined is left out of the JSON.
      body: JSON.parse(JSON.stringify({ [bulk.items]: items })),
    });
    const results = readPointer(exchange.succeeded(answer), bulk.results);
    if (!Array.isArray(results) || results.length !== changes.length) {
      throw exchange.misunderstood(`its bulk answer has not one result for each item at ${bulk.results}`);
    }
    // One item that is not as it should be is its own trouble.
    return results.map((result) => {
      try {
        return edited(writing, bulk, result);
      } catch (thrown) {
        return failed(thrown);
      }
    });
  } catch (thrown) {
    return changes.map(() => failed(thrown));
  }
}

function edited({ exchange, stored }: Writing, bulk: BulkChanging, result: unknown): ApplyResult {
  const status = Number(readPointer(result, bulk.status));
  if (status < 200 || status >= 300) {
    return { ok: false, problem: exchange.problemOf({ status, body: readPointer(result, bulk.problem) }) };
  }
  const { record, version } = stored(readPointer(result, bulk.record));
  return { ok: true, record, ...(version !== undefined && { version }) };
}
