import { useCallback, useMemo } from 'react';
import type { RuleView } from '@vast-knot/core';
import { movedTo, type listedRules, orderAround } from './ruleList';
import type { useRuleWork } from './useRuleWork';

/** What a row lets one do; the same object while nothing of it changes. */
export interface RowDeeds {
  readonly mayEdit: boolean;
  readonly mayPublish: boolean;
  readonly choose: (id: string, chosen: boolean) => void;
  readonly place: (id: string, at: number) => void;
  readonly rename: (rule: RuleView, name: string) => void;
  readonly copy: (rule: RuleView) => void;
  readonly remove: (rule: RuleView) => void;
  readonly file: (rule: RuleView) => void;
}

interface RowDeedsFrom extends Pick<RowDeeds, 'mayEdit' | 'mayPublish'> {
  readonly listed: ReturnType<typeof listedRules>;
  readonly work: ReturnType<typeof useRuleWork>;
  readonly setIds: (change: (ids: ReadonlySet<string>) => ReadonlySet<string>) => void;
  readonly setFiling: (filing: boolean) => void;
}

/** What rows let one do. It stays the same while the list does, so that a press draws one row and not all. */
export function useRowDeeds({
  listed,
  work,
  mayEdit,
  mayPublish,
  setIds,
  setFiling,
}: RowDeedsFrom): RowDeeds {
  const { order, rename, copy, remove } = work;
  const place = useCallback(
    (id: string, at: number) => order.mutate({ ids: movedTo(listed, id, at), was: orderAround(listed, id) }),
    [order.mutate, listed], // eslint-disable-line react-hooks/exhaustive-deps -- a mutation is another object with each drawing
  );
  const choose = useCallback(
    (id: string, isChosen: boolean) =>
      setIds((ids) => {
        const next = new Set(ids);
        if (isChosen) next.add(id);
        else next.delete(id);
        return next;
      }),
    [setIds],
  );
  return useMemo(
    () => ({
      mayEdit,
      mayPublish,
      choose,
      place,
      rename: (rule, name) => rename.mutate({ rule, name }),
      copy: (rule) => copy.mutate(rule),
      remove: (rule) => remove.mutate([rule]),
      file: ({ id }) => {
        setIds(() => new Set([id]));
        setFiling(true);
      },
    }),
    [mayEdit, mayPublish, choose, place, rename.mutate, copy.mutate, remove.mutate, setIds, setFiling], // eslint-disable-line react-hooks/exhaustive-deps -- as above
  );
}
