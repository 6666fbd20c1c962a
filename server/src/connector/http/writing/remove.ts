import { fillPath, type ApplyResult } from '@vast-knot/core';
import type { Guarded } from '../../byKind';
import { eachAlone } from '../../writing';
import { ifMatchOf, type Writing } from './writing';

/** Removes records, each with a request of its own; one that is gone already is removed. */
export function removeRecords(
  { style, exchange, read }: Writing,
  changes: readonly Guarded<'remove'>[],
): Promise<readonly ApplyResult[]> {
  const { removing } = style;
  return eachAlone(changes, async ({ change, version }) => {
    if (!removing)
      throw exchange.failure('refused', 'cannot remove records: its connection does not say how.');
    const { id } = change.ref;
    const inAddress = removing.path.includes('{version}');
    let ifMatch = inAddress ? undefined : ifMatchOf(style, version);
    let at = version;
    if (ifMatch === undefined && style.version.kind !== 'none' && (inAddress || version !== undefined)) {
      const now = await read(id);
      if (!now) return { ok: true, record: undefined };
      if (version !== undefined && now.version !== version)
        throw exchange.failure('changed in between', `: ${id} was changed by somebody else in between.`);
      ifMatch = now.etag;
      at = now.version;
    }
    const path = fillPath(removing.path, {
      path: style.path,
      id,
      ...(inAddress && at !== undefined && { version: at }),
    });
    if (path === undefined)
      throw exchange.failure('refused', `cannot be asked to remove “${id}”: it is no part of an address.`);
    const answer = await exchange.ask({
      method: removing.method,
      path,
      body: removing.body,
      headers: ifMatch === undefined ? {} : { 'if-match': ifMatch },
    });
    if (answer.status !== 404 && answer.status !== 410) exchange.succeeded(answer);
    return { ok: true, record: undefined };
  });
}
