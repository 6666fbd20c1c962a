import { Button } from '@mantine/core';
import { memo, useState } from 'react';
import type { Action } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { ClauseFormula } from '../formula/ClauseFormula';
import { useSheetTools } from '../SheetContext';

/** The condition of an action: it is done only for records for which it holds. Shown once there is one. */
export const OnlyWhen = memo(function OnlyWhen({ at, only }: { readonly at: number; readonly only: string }) {
  const { edit } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const [open, setOpen] = useState(false);
  if (only === '' && !open) {
    return mayChange ? (
      <Button variant="subtle" size="compact-xs" onClick={() => setOpen(true)}>
        only when …
      </Button>
    ) : null;
  }
  const change = (formula: string) =>
    edit((body) => {
      const action = body.actions[at];
      return action ? { ...body, actions: body.actions.with(at, withOnly(action, formula)) } : body;
    }, `only ${at}`);
  return (
    <div className="only-when">
      <span className="dim">only when</span>
      <span>
        <ClauseFormula
          place={`actions/${at}/only`}
          value={only}
          label={`Condition of action ${at + 1}`}
          placeholder='a condition, such as target.status = "active"'
          onChange={change}
        />
      </span>
    </div>
  );
});

function withOnly(action: Action, formula: string): Action {
  const { only: _only, ...rest } = action;
  return formula.trim() === '' ? rest : { ...rest, only: formula };
}
