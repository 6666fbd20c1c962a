import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { ApiProblem, ask } from '../api/client';
import { keys } from '../api/queries';
import { begun, changedTo, stepBack, stepForth } from '../parts/history';

const saveAfterMs = 500;
export interface Draft {
  readonly body: RuleBody;
  /** Changes the draft. Changes of one `part` that follow each other quickly are one step of undo. */
  readonly edit: (change: (body: RuleBody) => RuleBody, part?: string) => void;
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly saving: 'saved' | 'saving' | 'unsaved' | 'conflict' | 'failed';
  readonly problem: string | undefined;
  /** Saves what is not saved yet; gives the revision then. */
  readonly settle: () => Promise<number>;
}

/** The draft at hand: every edit can be undone, and is saved by itself a moment later. */
export function useDraft(rule: RuleView): Draft {
  const client = useQueryClient();
  const [history, setHistory] = useState(begun(rule.draft));
  const saved = useRef({ body: rule.draft, revision: rule.revision });
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const save = useMutation({
    mutationFn: async (body: RuleBody) => {
      const view = await ask<RuleView>(`/rules/${rule.id}/draft`, {
        method: 'PUT',
        body,
        ifMatch: saved.current.revision,
      });
      saved.current = { body, revision: view.revision };
      client.setQueryData(keys.rule(rule.id), view);
      void client.invalidateQueries({ queryKey: keys.rules, exact: true });
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
      const kept = { method: 'PUT', body: unsaved.current, ifMatch: revision, keepalive: true } as const;
      ask<RuleView>(`/rules/${rule.id}/draft`, kept)
        .then((view) => client.setQueryData(keys.rule(rule.id), view))
        .catch(() => client.invalidateQueries({ queryKey: keys.rule(rule.id) }));
    };
    window.addEventListener('pagehide', saveLast);
    return () => {
      window.removeEventListener('pagehide', saveLast);
      // The page stays: what is being saved now ends first, so that the revision is known.
      void queue.current.then(saveLast);
    };
  }, [client, rule.id]);

  const edit = useCallback((change: (body: RuleBody) => RuleBody, part?: string) => {
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
