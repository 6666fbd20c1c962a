import { useMutation } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ConnectionDraft, DraftTry, TriedView } from '@vast-knot/core';
import { ask } from '../../api/client';

/** A statement is tried so long after it was changed. */
const tryAfterMs = 700;

/** What was tried last, and what came of it. */
export interface Tries {
  readonly asked: DraftTry | undefined;
  readonly tried: TriedView | undefined;
  readonly trying: boolean;
  readonly problem: unknown;
  readonly attempt: (asked: DraftTry) => void;
}

/**
 * Tries statements of a draft on the real system: the list of the type at hand by itself, a moment after something that it depends on was
 * changed, and everything else when it is asked for.
 */
export function useTries(id: string, draft: ConnectionDraft, type: string, mayTry: boolean): Tries {
  const [asked, setAsked] = useState<DraftTry>();
  const { mutate, data, isPending, error } = useMutation({
    mutationFn: (what: { draft: ConnectionDraft; asked: DraftTry }) =>
      ask<TriedView>(`/connections/drafts/${id}/try`, { method: 'POST', body: what }),
  });
  const latest = useRef(draft);
  useEffect(() => {
    latest.current = draft;
  }, [draft]);
  const attempt = useCallback(
    (next: DraftTry) => {
      setAsked(next);
      // Reasons and what was left out have no part in it.
      mutate({ draft: { ...latest.current, reasons: [], leftOut: [] }, asked: next });
    },
    [mutate],
  );
  const reads = JSON.stringify(listReads(draft, type));
  useEffect(() => {
    if (!mayTry || type === '' || draft.connection.baseUrl === '') return;
    const timer = setTimeout(() => attempt({ what: 'list', type }), tryAfterMs);
    return () => clearTimeout(timer);
    // What the list depends on stands in `reads`.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [reads, type, mayTry, attempt]);
  return { asked, tried: data, trying: isPending, problem: error, attempt };
}

/** Returns what the answer of a list depends on. How the answer is read is no reason to ask again. */
function listReads({ connection }: ConnectionDraft, type: string) {
  if (connection.kind === 'postgres') {
    const { baseUrl, user, protection, zone, recordTypes } = connection;
    const { schema, table, version } = recordTypes[type] ?? {};
    return { baseUrl, user, protection, zone, schema, table, version };
  }
  const { baseUrl, signIn, headers, usual, recordTypes } = connection;
  const own = recordTypes[type];
  const list = own?.list ?? usual.list;
  const { items: _items, record: _record, total: _total, totalHeader: _header, ...asked } = list;
  return { baseUrl, signIn, headers, path: own?.path, asked };
}
