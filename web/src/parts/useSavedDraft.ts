import { useMutation, useQueryClient, type QueryKey } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { ApiProblem, ask } from '../api/client';
import { begun, changedTo, stepBack, stepForth } from './history';

const saveAfterMs = 500;

export interface SavedDraft<T> {
  readonly body: T;
  /** Changes the draft. Changes of one `part` that follow each other quickly are one step of undo. */
  readonly edit: (change: (body: T) => T, part?: string) => void;
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly saving: 'saved' | 'saving' | 'unsaved' | 'conflict' | 'failed';
  readonly problem: string | undefined;
  /** What somebody else made of it meanwhile, and the choice; undefined where nobody did. */
  readonly theirs: Theirs<T> | undefined;
  /** Saves what is not saved yet; gives the revision then. */
  readonly settle: () => Promise<number>;
}

/** A draft as somebody else left it while it was edited here. */
export interface Theirs<T> {
  readonly body: T;
  readonly by: string;
  /** Takes it in the place of what was typed here, which is one step of undo away. */
  readonly take: () => void;
  /** Saves what was typed here over it. */
  readonly saveOver: () => void;
}

/** Where a draft is kept. */
export interface KeptAt<T, View extends { readonly revision: number }> {
  /** The draft and its revision when the page was opened. */
  readonly start: { readonly body: T; readonly revision: number };
  /** The address that takes it. */
  readonly path: string;
  /** Where a draft is made that is kept nowhere yet, which is one of revision 0, and the address that takes it from then on. */
  readonly made?: { readonly path: string; readonly then: (view: View) => string };
  /** Where it is read again once somebody else changed it, and what the answer says. */
  readonly again: {
    readonly path: string;
    readonly body: (view: View) => T;
    readonly by: (view: View) => string;
  };
  /** What is sent to that address. */
  readonly sent: (body: T) => unknown;
  /** The query that holds what the address answers. */
  readonly queryKey: QueryKey;
  /** Hears of what was saved. */
  readonly onSaved?: (view: View) => void;
}

/** The draft at hand: every edit can be undone, and is saved by itself a moment later. What is given must be the same at each drawing. */
export function useSavedDraft<T, View extends { readonly revision: number }>({
  start,
  path,
  made,
  again,
  sent,
  queryKey,
  onSaved,
}: KeptAt<T, View>): SavedDraft<T> {
  const client = useQueryClient();
  const [history, setHistory] = useState(begun(start.body));
  const saved = useRef(start);
  /** A draft that is being made is made once, also when the page is left meanwhile. */
  const making = useRef(false);
  /** Where a draft is that was made meanwhile. */
  const madeAt = useRef<string>(undefined);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const [other, setOther] = useState<View>();
  const save = useMutation({
    onError: async (thrown) => {
      if (isOvertaken(thrown)) setOther(await ask<View>(again.path));
    },
    mutationFn: async (body: T) => {
      const { revision } = saved.current;
      if (made && revision === 0) {
        making.current = true;
        const begun = { method: 'POST', body: sent(body), keepalive: true } as const;
        const view = await ask<View>(made.path, begun).finally(() => (making.current = false));
        madeAt.current = made.then(view);
        saved.current = { body, revision: view.revision };
        onSaved?.(view);
        return;
      }
      const view = await ask<View>(madeAt.current ?? path, {
        method: 'PUT',
        body: sent(body),
        ifMatch: revision,
      });
      saved.current = { body, revision: view.revision };
      client.setQueryData(queryKey, view);
      onSaved?.(view);
    },
  });
  const { mutateAsync } = save;
  const { now } = history;

  const settle = useCallback(async () => {
    const step = queue.current.then(() => (saved.current.body === now ? undefined : mutateAsync(now)));
    // The next save goes on after a failed one; its own caller is told of the failure.
    queue.current = step.catch(() => undefined);
    await step;
    return saved.current.revision;
  }, [now, mutateAsync]);

  useEffect(() => {
    if (saved.current.body === now) return;
    const timer = setTimeout(() => void settle().catch(() => undefined), saveAfterMs);
    return () => clearTimeout(timer);
  }, [now, settle]);

  // What was typed in the last moment is saved although the sheet, or the page, is left.
  // A draft that was made meanwhile has another address, which is no leaving.
  const latest = useRef({ now, path, made, sent, queryKey });
  useEffect(() => {
    latest.current = { now, path, made, sent, queryKey };
  }, [now, path, made, sent, queryKey]);
  useEffect(() => {
    const saveLast = () => {
      const { body: before, revision } = saved.current;
      const { now: body, path: at, made: makes, sent: send, queryKey: key } = latest.current;
      if (body === before || making.current) return;
      saved.current = { body, revision };
      if (makes && revision === 0) {
        const begun = { method: 'POST', body: send(body), keepalive: true } as const;
        ask<View>(makes.path, begun).catch(() => undefined);
        return;
      }
      const kept = { method: 'PUT', body: send(body), ifMatch: revision, keepalive: true } as const;
      ask<View>(madeAt.current ?? at, kept)
        .then((view) => client.setQueryData(key, view))
        .catch(() => client.invalidateQueries({ queryKey: key }));
    };
    window.addEventListener('pagehide', saveLast);
    return () => {
      window.removeEventListener('pagehide', saveLast);
      // The page stays: what is being saved now ends first, so that the revision is known.
      void queue.current.then(saveLast);
    };
  }, [client]);

  const edit = useCallback((change: (body: T) => T, part?: string) => {
    const at = Date.now();
    setHistory((known) => changedTo(known, change(known.now), at, part));
  }, []);
  const undo = useCallback(() => setHistory(stepBack), []);
  const redo = useCallback(() => setHistory(stepForth), []);

  // Whoever leaves now would leave what is not saved.
  useEffect(() => {
    if (!other) return;
    const hold = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', hold);
    return () => window.removeEventListener('beforeunload', hold);
  }, [other]);
  /** Goes on from what somebody else saved. */
  const goOnFrom = (view: View) => {
    saved.current = { body: again.body(view), revision: view.revision };
    setOther(undefined);
    save.reset();
    client.setQueryData(queryKey, view);
  };
  const theirs = other && {
    body: again.body(other),
    by: again.by(other),
    take: () => {
      goOnFrom(other);
      setHistory((known) => changedTo(known, saved.current.body, Date.now()));
    },
    saveOver: () => {
      goOnFrom(other);
      void settle().catch(() => undefined);
    },
  };

  const conflict = isOvertaken(save.error);
  return {
    body: now,
    edit,
    undo: history.past.length > 0 ? undo : undefined,
    redo: history.future.length > 0 ? redo : undefined,
    saving: conflict
      ? 'conflict'
      : save.isError
        ? 'failed'
        : save.isPending
          ? 'saving'
          : save.isSuccess
            ? 'saved'
            : 'unsaved',
    problem: save.error?.message,
    theirs,
    settle,
  };
}

function isOvertaken(thrown: unknown): boolean {
  return thrown instanceof ApiProblem && thrown.problem.status === 412;
}
