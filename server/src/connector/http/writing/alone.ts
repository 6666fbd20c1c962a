import {
  aloneStyle,
  enveloped,
  fillPath,
  unwrapped,
  type ApplyResult,
  type ChangingAlone,
} from '@vast-knot/core';
import type { Guarded } from '../../byKind';
import { eachAlone } from '../../writing';
import { ifMatchOf, lookBefore, type Writing } from './writing';

/** Edits records, each with a request of its own. */
export function editAlone(
  writing: Writing,
  changing: ChangingAlone,
  changes: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  return eachAlone(changes, (guarded) => editOne(writing, changing, guarded));
}

async function editOne(
  writing: Writing,
  changing: ChangingAlone,
  guarded: Guarded<'edit'>,
): Promise<ApplyResult> {
  const { style, exchange, stored, read } = writing;
  const { change, key } = guarded;
  const family = aloneStyle(changing);
  const guardedByHeader = ifMatchOf(style, guarded.version);
  const looked =
    guardedByHeader === undefined || family.needsRecord ? await lookBefore(writing, guarded) : undefined;
  if (looked?.is === 'settled') return looked.result;
  const ifMatch = guardedByHeader ?? (style.version.kind === 'etag' ? looked?.now.etag : undefined);
  const { id } = change.ref;
  const path = fillPath(changing.path ?? '{path}/{id}', { path: style.path, id });
  if (path === undefined)
    throw exchange.failure('refused', `cannot be asked for the id “${id}”: it is no part of an address.`);
  const mediaType = 'mediaType' in changing ? changing.mediaType : undefined;
  const answer = await exchange.ask({
    method: changing.method ?? family.method,
    path,
    body: enveloped(family.body({ edits: change.edits, now: looked?.now.record }), changing.envelope),
    headers: {
      'content-type': mediaType ?? family.mediaType,
      ...(ifMatch !== undefined && { 'if-match': ifMatch }),
      ...(changing.keyHeader !== undefined &&
        key !== undefined && { [changing.keyHeader.toLowerCase()]: key }),
    },
  });
  const body = exchange.succeeded(answer);
  const told = changing.answer === 'none' ? undefined : unwrapped(body, changing.answer);
  // An answer without the record is followed by a look at it.
  const after = told === undefined || told === null ? await read(id) : stored(told);
  if (!after) throw exchange.misunderstood(`${id} is not there after it was changed`);
  return { ok: true, record: after.record, ...(after.version !== undefined && { version: after.version }) };
}
