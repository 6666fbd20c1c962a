import type { EditorView } from '@codemirror/view';
import { createContext, useContext } from 'react';
import type { Finding, RuleBody, RuleProblem, Scope, Surroundings, SystemView } from '@vast-knot/core';
import type { FormulaMistake } from './formula/FormulaEditor';
import type { AboutValue } from './formula/formulaLanguage';

/** What stays the same while a rule is edited, so that what uses it alone is not drawn anew with every keystroke. */
export interface SheetTools {
  readonly systems: readonly SystemView[];
  readonly surroundings: Surroundings;
  /** Changes the draft; changes of one `part` that follow each other are one step of undo. */
  readonly edit: (change: (body: RuleBody) => RuleBody, part?: string) => void;
  /** Returns the draft as it stands, to be asked when something is pressed. */
  readonly current: () => RuleBody;
  readonly fix: (finding: Finding) => void;
  readonly onEditor: (view: EditorView) => void;
  /** Says where a value comes from that a formula names, and what it is for the present sample. */
  readonly aboutValue: (path: readonly string[]) => AboutValue | undefined;
}

/** The draft as it stands, and what is wrong with it. */
export interface SheetState {
  readonly body: RuleBody;
  readonly problems: readonly RuleProblem[];
  readonly findings: readonly Finding[];
  readonly scopeAt: (place: string) => Scope | undefined;
}

const Tools = createContext<SheetTools | undefined>(undefined);
const State = createContext<SheetState | undefined>(undefined);
export const ToolsProvider = Tools.Provider;
export const StateProvider = State.Provider;

export function useSheetTools(): SheetTools {
  return inSheet(useContext(Tools));
}

export function useSheetState(): SheetState {
  return inSheet(useContext(State));
}

function inSheet<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('The sheet is used outside of it.');
  return value;
}

const none: readonly Finding[] = [];
/** One list for all formulas without mistakes, so that nothing is drawn anew for them. */
export const noMistakes: readonly FormulaMistake[] = [];

/** Returns the findings about a place of the rule and what lies in it: `guard`, `finds/0`. */
export function findingsAt(findings: readonly Finding[], place: string): readonly Finding[] {
  const here = findings.filter(({ at }) => at === place || at.startsWith(`${place}/`));
  return here.length === 0 ? none : here;
}

/** Returns the mistakes of the formula at a place, with where in its text they are. */
export function mistakesAt(
  problems: readonly RuleProblem[],
  place: string,
  length: number,
): readonly FormulaMistake[] {
  const here = problems.filter(({ at }) => at === place);
  return here.length === 0
    ? noMistakes
    : here.map(({ error: { message, place: stretch } }) => ({
        message,
        start: stretch?.start ?? 0,
        end: stretch?.end ?? length,
      }));
}
