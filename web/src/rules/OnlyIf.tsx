import { ClauseFormula } from './formula/ClauseFormula';
import { useSheet } from './SheetContext';

/** The clause “only if”: the guard of the rule. */
export function OnlyIf({ guard }: { readonly guard: string }) {
  const { edit } = useSheet();
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
}
