import { useId, useMemo } from 'react';
import { findingsAt, mistakesAt, noMistakes, useSheetState, useSheetTools } from '../SheetContext';
import { FindingNotes } from '../findings/FindingNote';
import { FormulaEditor } from './FormulaEditor';

interface ClauseFormulaProps {
  /** Where the formula stands in the rule: `guard`, `finds/0/match/1/formula`. */
  readonly place: string;
  readonly value: string;
  readonly label: string;
  readonly placeholder: string;
  readonly onChange: (formula: string) => void;
}

/** A formula in a clause of the sheet, with its findings below it. */
export function ClauseFormula({ place, value, label, placeholder, onChange }: ClauseFormulaProps) {
  const id = useId();
  const { fix, onEditor, aboutValue } = useSheetTools();
  const { problems, findings, scopeAt } = useSheetState();
  const mistakes = useMemo(
    () => (value.trim() === '' ? noMistakes : mistakesAt(problems, place, value.length)),
    [problems, place, value],
  );
  const here = findingsAt(findings, place);
  const scope = useMemo(() => scopeAt(place), [scopeAt, place]);
  return (
    <>
      <FormulaEditor
        value={value}
        label={label}
        placeholder={placeholder}
        scope={scope}
        mistakes={mistakes}
        describedBy={here.length > 0 ? id : undefined}
        onChange={onChange}
        about={aboutValue}
        onFocus={onEditor}
      />
      <FindingNotes findings={here} onFix={fix} id={id} />
    </>
  );
}
