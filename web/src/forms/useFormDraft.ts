import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useState } from 'react';
import type { FormSummary, FormView } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { begun, changedTo, stepBack, stepForth } from '../parts/history';
import type { FormDraft } from './formEdits';

/** Where a record type that comes in is, in the API. */
export const formPath = ({ system, recordType }: { readonly system: string; readonly recordType: string }) =>
  `/forms/${system}/${encodeURIComponent(recordType)}`;

/**
 * A form as it is edited. It is saved by a press alone: from then on people outside see it. Who was first is told, and what was typed
 * stays.
 */
export function useFormDraft({ system, type, form }: FormView) {
  const client = useQueryClient();
  const [saved, setSaved] = useState<FormDraft>(() => ({ type, form }));
  const [history, setHistory] = useState(() => begun<FormDraft>(saved));
  const [theirs, setTheirs] = useState<FormDraft>();
  const edit = useCallback((change: (draft: FormDraft) => FormDraft, part?: string) => {
    setHistory((known) => changedTo(known, change(known.now), Date.now(), part));
  }, []);
  const { now } = history;
  const unsaved = now !== saved;
  const save = useMutation({
    mutationFn: (wanted: FormDraft) =>
      ask<FormView>(formPath({ system, recordType: type.name }), {
        method: 'PUT',
        body: { ...wanted, seen: saved },
      }),
    onSuccess: (_view, wanted) => {
      setSaved(wanted);
      void client.invalidateQueries({ queryKey: keys.forms });
      void client.invalidateQueries({ queryKey: keys.systems });
    },
    onError: async (error) => {
      if (!(error instanceof ApiProblem) || error.problem.status !== 412) return;
      const all = await client.fetchQuery({
        queryKey: keys.forms,
        queryFn: () => ask<readonly FormSummary[]>('/forms'),
        staleTime: 0,
      });
      const found = all.find((each) => each.system === system && each.type.name === type.name);
      if (found) setTheirs({ type: found.type, form: found.form });
    },
  });
  useEffect(() => {
    if (!unsaved) return undefined;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [unsaved]);
  return {
    draft: now,
    saved,
    edit,
    undo: history.past.length > 0 ? () => setHistory(stepBack) : undefined,
    redo: history.future.length > 0 ? () => setHistory(stepForth) : undefined,
    unsaved,
    saving: save.isPending,
    save: () => save.mutate(now),
    problem: save.isError && !theirs ? sentenceOf(save.error) : undefined,
    theirs,
    /** Takes what somebody else made of it, one step of undo away from what was typed. */
    takeTheirs: () => {
      if (!theirs) return;
      setSaved(theirs);
      edit(() => theirs);
      setTheirs(undefined);
    },
    /** Saves what was typed over it with the next press. */
    keepMine: () => {
      if (theirs) setSaved(theirs);
      setTheirs(undefined);
    },
  };
}

export type EditedForm = ReturnType<typeof useFormDraft>;
