import {
  enveloped,
  fillPath,
  idInLocation,
  idOf,
  unwrapped,
  type ApplyResult,
  type Creating,
  type StoredRecord,
  type WireAnswer,
} from '@vast-knot/core';
import type { Guarded } from '../../byKind';
import { createdBefore, eachAlone } from '../../writing';
import type { Writing } from './writing';

/** Creates records, each with a request of its own and its key. */
export function createRecords(
  writing: Writing,
  changes: readonly Guarded<'create'>[],
): Promise<readonly ApplyResult[]> {
  return eachAlone(changes, (guarded) => createOne(writing, guarded));
}

async function createOne(writing: Writing, { change, key, again }: Guarded<'create'>): Promise<ApplyResult> {
  const { style, exchange, type } = writing;
  const { creating } = style;
  if (!creating) throw exchange.failure('refused', 'cannot create records: its connection does not say how.');
  // Whoever puts a record to an address of its own makes it once, however often that is asked for.
  const knowsRepeats = creating.keyHeader !== undefined || creating.method === 'PUT';
  if (again && !knowsRepeats) {
    const there = await createdBefore(
      { ...writing, failure: (code, what) => exchange.failure(code, what) },
      creating.naturalKey,
      change.record,
    );
    if (there) return made(there);
  }
  const own = idOf(type?.idField ?? 'id', change.record);
  const path = fillPath(creating.path, {
    path: style.path,
    ...(creating.path.includes('{id}') && { id: own ?? '' }),
  });
  if (path === undefined)
    throw exchange.failure('refused', `cannot be asked to create a record with the id “${own ?? ''}”.`);
  const answer = await exchange.ask({
    method: creating.method,
    path,
    body: enveloped(change.record, creating.envelope),
    headers:
      key === undefined || creating.keyHeader === undefined
        ? {}
        : { [creating.keyHeader.toLowerCase()]: key },
  });
  return made(await recordMade(writing, creating, answer));
}

function made({ ref, record, version }: StoredRecord): ApplyResult {
  return { ok: true, id: ref.id, record, ...(version !== undefined && { version }) };
}

/** Returns the record that an answer holds, or that it tells the id of. */
async function recordMade(writing: Writing, creating: Creating, answer: WireAnswer): Promise<StoredRecord> {
  const { exchange, stored, read } = writing;
  const body = exchange.succeeded(answer);
  const { location } = answer.headers;
  const id = creating.location
    ? location === undefined
      ? undefined
      : idInLocation(location)
    : creating.id === undefined
      ? undefined
      : idOf('id', { id: (unwrapped(body, creating.id) as string | null | undefined) ?? null });
  if (!creating.location && creating.id === undefined) return stored(unwrapped(body, creating.answer));
  if (id === undefined) {
    const where = creating.location ? 'in the header Location' : `at ${creating.id ?? ''}`;
    throw exchange.misunderstood(`the answer to a creation has no id ${where}`);
  }
  const record = await read(id);
  if (!record) throw exchange.misunderstood(`${id} is not there after it was created`);
  return record;
}
