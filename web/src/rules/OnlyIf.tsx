import { memo } from 'react';
import { ClauseFormula } from './formula/ClauseFormula';
import { useSheetTools } from './SheetContext';

/** The clause “only if”: the guard of the rule. */
export const OnlyIf = memo(function OnlyIf({ guard }: { readonly guard: string }) {
  const { edit } = useSheetTools();
  return (
    <div className="clause">
      <span className="word">only if</span>
      <span>
        <ClauseFormula
          place="guard"
          value={guard}
          label="Only if"
          placeholder='always; or a condition, such as status = "active"'
          onChange={(formula) => edit((known) => ({ ...known, guard: formula }), 'guard')}
        />
      </span>
    </div>
  );
});
