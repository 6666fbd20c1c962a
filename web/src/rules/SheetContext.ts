import type { EditorView } from '@codemirror/view';
import { createContext, useContext } from 'react';
import type { Finding, RuleBody, RuleProblem, Scope, Surroundings, SystemView } from '@vast-knot/core';
import type { FormulaMistake } from './formula/FormulaEditor';

/** What every part of the rule sheet works with. */
export interface Sheet {
  readonly body: RuleBody;
  readonly systems: readonly SystemView[];
  readonly surroundings: Surroundings;
  readonly problems: readonly RuleProblem[];
  readonly findings: readonly Finding[];
  /** Changes the draft; changes of one `part` that follow each other are one step of undo. */
  readonly edit: (change: (body: RuleBody) => RuleBody, part?: string) => void;
  readonly fix: (finding: Finding) => void;
  readonly onEditor: (view: EditorView) => void;
  readonly scopeAt: (place: string) => Scope | undefined;
}

const Context = createContext<Sheet | undefined>(undefined);
export const SheetProvider = Context.Provider;

export function useSheet(): Sheet {
  const sheet = useContext(Context);
  if (!sheet) throw new Error('The sheet is used outside of it.');
  return sheet;
}

const none: readonly Finding[] = [];

/** The findings about a place of the rule and what lies in it: `guard`, `finds/0`. */
export function findingsAt(findings: readonly Finding[], place: string): readonly Finding[] {
  const here = findings.filter(({ at }) => at === place || at.startsWith(`${place}/`));
  return here.length === 0 ? none : here;
}

/** The mistakes of the formula at a place, with where in its text they are. */
export function mistakesAt(
  problems: readonly RuleProblem[],
  place: string,
  length: number,
): FormulaMistake[] {
  return problems
    .filter(({ at }) => at === place)
    .map(({ error: { message, place: stretch } }) => ({
      message,
      start: stretch?.start ?? 0,
      end: stretch?.end ?? length,
    }));
}
