import { useDeferredValue, useMemo, useState } from 'react';
import {
  compileRule,
  scopeAt,
  type CompiledRule,
  type Finding,
  type Rule,
  type RuleBody,
  type RuleProblem,
  type RuleReport,
  type Sample,
  type Surroundings,
} from '@vast-knot/core';
import { useRules } from '../api/queries';
import { surroundingsOf, type Known } from '../work/known';
import { useWork } from '../work/useWork';
import type { SheetState } from './SheetContext';

export interface SheetWork {
  readonly surroundings: Surroundings;
  /** The parts of the draft that compile. */
  readonly sound: CompiledRule | undefined;
  readonly state: SheetState;
  /** The draft as the worker has it: a moment behind what is typed. */
  readonly settled: Rule;
  /** Whether the findings are those of the draft as it stands. */
  readonly current: boolean;
  /** What the draft does with the present sample. */
  readonly report: RuleReport | undefined;
}

const noFindings: readonly Finding[] = [];
const noProblems: readonly RuleProblem[] = [];

/** Everything that is computed of a draft: at once what a keystroke needs, in the worker what may follow a moment later. */
export function useSheetWork(
  id: string,
  body: RuleBody,
  sample: Sample | undefined,
  known: Known,
): SheetWork {
  const surroundings = surroundingsOf(known);
  const asEdited = useMemo((): Rule => ({ ...body, id, version: 0 }), [body, id]);
  const compilation = useMemo(() => compileRule(asEdited, surroundings), [asEdited, surroundings]);

  const settled = useDeferredValue(asEdited);
  const rules = useRules().data;
  const others = useMemo(
    () =>
      (rules ?? []).flatMap((each): Rule[] =>
        each.id === id ? [] : [{ ...each.draft, id: each.id, version: 0 }],
      ),
    [rules, id],
  );
  const checked = useWork(
    'findings',
    useMemo(() => ({ rule: settled, others }), [settled, others]),
    known,
  );
  const findings = useSameFindings(checked.output ?? noFindings);
  const replayed = useWork(
    'replay',
    useMemo(() => sample && { rules: [settled], sample }, [settled, sample]),
    known,
  );
  const state = useMemo(
    (): SheetState => ({
      body,
      problems: compilation.ok ? noProblems : compilation.problems,
      findings,
      scopeAt: (place) => scopeAt(body, place, surroundings),
    }),
    [body, surroundings, compilation, findings],
  );
  return {
    surroundings,
    sound: compilation.ok ? compilation.compiled : compilation.sound,
    state,
    settled,
    current: checked.current && settled === asEdited,
    report: sample && replayed.output?.report.rules.find(({ depth }) => depth === 0),
  };
}

/** Findings as they were while they say the same, so that nothing is drawn anew for them. */
function useSameFindings(findings: readonly Finding[]): readonly Finding[] {
  const [kept, setKept] = useState(findings);
  if (kept === findings || JSON.stringify(kept) === JSON.stringify(findings)) return kept;
  setKept(findings);
  return findings;
}
