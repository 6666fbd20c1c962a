import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { RemovedRule, RuleBody, RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { keys } from '../../api/queries';
import { tellTrouble, tellWithUndo } from '../../parts/toast';

/** What can be done with rules from their list; each change is seen at once and is told where it fails. */
export function useRuleWork() {
  const client = useQueryClient();
  const renew = () => client.invalidateQueries({ queryKey: keys.rules });
  const trouble = (error: Error) => tellTrouble(sentenceOf(error));
  const taken = (rules: readonly RuleView[]) => client.setQueryData(keys.rules, rules);
  const order = useMutation({
    mutationFn: ({ ids, was }: { readonly ids: readonly string[]; readonly was: readonly string[] }) =>
      ask<RuleView[]>('/rules/order', { method: 'PUT', body: { ids, was } }),
    onSuccess: taken,
    // Somebody else may have put them in another order: the list is shown as it is by then.
    onError: (error) => {
      trouble(error);
      void renew();
    },
  });
  const file = useMutation({
    mutationFn: ({ rules, folder }: { readonly rules: readonly RuleView[]; readonly folder: string }) =>
      ask<RuleView[]>('/rules/folders', { method: 'PUT', body: { ids: rules.map(({ id }) => id), folder } }),
    onSuccess: taken,
    onError: trouble,
  });
  const copy = useMutation({
    mutationFn: ({ id }: RuleView) => ask<RuleView>(`/rules/${id}/copy`, { method: 'POST' }),
    onSuccess: renew,
    onError: trouble,
  });
  const rename = useMutation({
    mutationFn: ({ rule, name }: { readonly rule: RuleView; readonly name: string }) =>
      ask<RuleView>(`/rules/${rule.id}/draft`, {
        method: 'PUT',
        body: { ...rule.draft, name } satisfies RuleBody,
        ifMatch: rule.revision,
      }),
    onSettled: renew,
    onError: trouble,
  });
  const restore = useMutation({
    mutationFn: (ids: readonly string[]) =>
      Promise.all(ids.map((id) => ask<RuleView>(`/rules/${id}/restore`, { method: 'POST' }))),
    onSettled: renew,
    onError: trouble,
  });
  const remove = useMutation({
    mutationFn: async (rules: readonly RuleView[]) => {
      const gone: RuleView[] = [];
      for (const rule of rules) {
        try {
          await ask<RemovedRule[]>(`/rules/${rule.id}`, { method: 'DELETE' });
          gone.push(rule);
        } catch (thrown) {
          tellTrouble(sentenceOf(thrown));
        }
      }
      return gone;
    },
    onSuccess: (gone) => {
      const [first] = gone;
      if (!first) return;
      tellWithUndo({
        text: gone.length === 1 ? `“${first.draft.name}” is removed.` : `${gone.length} rules are removed.`,
        undo: () => restore.mutate(gone.map(({ id }) => id)),
      });
    },
    onSettled: renew,
  });
  return { order, file, copy, rename, remove, restore, several: useSeveral(() => void renew()) };
}

/** Does something with several rules, one after the other. What fails for one is told, and the others go on. */
function useSeveral(done: () => void) {
  const [progress, setProgress] = useState<{ readonly done: number; readonly of: number }>();
  const work = async (rules: readonly RuleView[], one: (rule: RuleView) => Promise<unknown>) => {
    for (const [at, rule] of rules.entries()) {
      setProgress({ done: at, of: rules.length });
      await one(rule).catch((thrown: unknown) => tellTrouble(`“${rule.draft.name}”: ${sentenceOf(thrown)}`));
    }
    setProgress(undefined);
    done();
  };
  return {
    progress,
    publish: (rules: readonly RuleView[], note: string) =>
      work(rules, ({ id, revision }) =>
        ask(`/rules/${id}/publish`, { method: 'POST', body: { note }, ifMatch: revision }),
      ),
    stop: (rules: readonly RuleView[], why: string) =>
      work(rules, ({ id }) =>
        ask(`/rules/${id}/published?${new URLSearchParams({ why })}`, { method: 'DELETE' }),
      ),
  };
}
