import { useMemo } from 'react';
import type { Action } from '@vast-knot/core';
import { useSheetTools } from '../SheetContext';

/** Changes the action at a place of the rule, when it is of the kind that the change is for. */
export type SetAction<A extends Action> = (change: (action: A) => Action, part?: string) => void;

export function useSetAction<A extends Action>(
  at: number,
  is: (action: Action) => action is A,
): SetAction<A> {
  const { edit } = useSheetTools();
  return useMemo(
    () => (change: (action: A) => Action, part?: string) =>
      edit((body) => {
        const before = body.actions[at];
        const after = before && is(before) ? change(before) : before;
        return after === before || !after ? body : { ...body, actions: body.actions.with(at, after) };
      }, part),
    [edit, at, is],
  );
}
