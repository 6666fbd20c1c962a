import { useMemo } from 'react';
import type { Action, ActionKind } from '@vast-knot/core';
import { useSheetTools } from '../SheetContext';

/** Changes the action at a place of the rule, when it is of the kind that the change is for. */
type SetAction<A extends Action> = (change: (action: A) => Action, part?: string) => void;

export function useSetAction<Kind extends ActionKind>(
  at: number,
  kind: Kind,
): SetAction<Extract<Action, { kind: Kind }>> {
  const { edit } = useSheetTools();
  return useMemo(
    () => (change, part) =>
      edit((body) => {
        const before = body.actions[at];
        if (!before || !isOf(before, kind)) return body;
        const after = change(before);
        return after === before ? body : { ...body, actions: body.actions.with(at, after) };
      }, part),
    [edit, at, kind],
  );
}

function isOf<Kind extends ActionKind>(
  action: Action,
  kind: Kind,
): action is Extract<Action, { kind: Kind }> {
  return action.kind === kind;
}
