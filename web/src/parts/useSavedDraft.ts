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
  /** Saves what is not saved yet; gives the revision then. */
  readonly settle: () => Promise<number>;
}

/** Where a draft is kept. */
export interface KeptAt<T, View extends { readonly revision: number }> {
  /** The draft and its revision when the page was opened. */
  readonly start: { readonly body: T; readonly revision: number };
  /** The address that takes it. */
  readonly path: string;
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
  sent,
  queryKey,
  onSaved,
}: KeptAt<T, View>): SavedDraft<T> {
  const client = useQueryClient();
  const [history, setHistory] = useState(begun(start.body));
  const saved = useRef(start);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const save = useMutation({
    mutationFn: async (body: T) => {
      const view = await ask<View>(path, {
        method: 'PUT',
        body: sent(body),
        ifMatch: saved.current.revision,
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
  const unsaved = useRef(now);
  useEffect(() => {
    unsaved.current = now;
  }, [now]);
  useEffect(() => {
    const saveLast = () => {
      const { body, revision } = saved.current;
      if (body === unsaved.current) return;
      saved.current = { body: unsaved.current, revision };
      const kept = {
        method: 'PUT',
        body: sent(unsaved.current),
        ifMatch: revision,
        keepalive: true,
      } as const;
      ask<View>(path, kept)
        .then((view) => client.setQueryData(queryKey, view))
        .catch(() => client.invalidateQueries({ queryKey }));
    };
    window.addEventListener('pagehide', saveLast);
    return () => {
      window.removeEventListener('pagehide', saveLast);
      // The page stays: what is being saved now ends first, so that the revision is known.
      void queue.current.then(saveLast);
    };
  }, [client, path, queryKey, sent]);

  const edit = useCallback((change: (body: T) => T, part?: string) => {
    const at = Date.now();
    setHistory((known) => changedTo(known, change(known.now), at, part));
  }, []);
  const undo = useCallback(() => setHistory(stepBack), []);
  const redo = useCallback(() => setHistory(stepForth), []);

  const conflict = save.error instanceof ApiProblem && save.error.problem.status === 412;
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
    settle,
  };
}
