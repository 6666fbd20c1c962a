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
  type RuleView,
  type Sample,
  type Surroundings,
} from '@vast-knot/core';
import { useRules } from '../api/queries';
import { surroundingsOf, type Known } from '../work/known';
import { useWork } from '../work/useWork';
import { withRules } from '../work/withRules';
import type { SheetState } from './SheetContext';

interface SheetWork {
  readonly surroundings: Surroundings;
  /** The parts of the draft that compile. */
  readonly compiledParts: CompiledRule | undefined;
  readonly state: SheetState;
  /** The draft as the worker has it: a moment behind what is typed. */
  readonly settled: Rule;
  /** Whether the findings are those of the draft as it stands. */
  readonly current: boolean;
  /** Why there are no findings yet; undefined once the rule was checked. */
  readonly unchecked: string | undefined;
  /** What the draft does with the present sample. */
  readonly report: RuleReport | undefined;
  /** Why there is no report for the present sample. */
  readonly unanswered: string;
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
  const asEdited = useMemo((): Rule => ({ ...body, id, version: 0 }), [body, id]);

  const { others, running } = useOtherRules(id);
  const surroundings = useMemo(() => withRules(surroundingsOf(known), others), [known, others]);
  const compilation = useMemo(() => compileRule(asEdited, surroundings), [asEdited, surroundings]);
  const settled = useDeferredValue(asEdited);
  const checked = useWork(
    'findings',
    useMemo(() => ({ rule: settled, others, running }), [settled, others, running]),
    known,
  );
  const findings = useSameFindings(checked.output ?? noFindings);
  const replayed = useWork(
    'replay',
    useMemo(() => sample && { rules: [settled], others, sample }, [settled, others, sample]),
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
  const report = sample && replayed.output?.report.rules.find(({ depth }) => depth === 0);
  return {
    surroundings,
    compiledParts: compilation.ok ? compilation.compiled : compilation.compiledParts,
    state,
    settled,
    current: checked.current && settled === asEdited,
    unchecked: checked.error ?? (checked.output ? undefined : 'The rule is being checked …'),
    report,
    unanswered:
      replayed.error ??
      (!compilation.ok
        ? 'Nothing is computed while the rule has mistakes.'
        : replayed.output && replayed.current
          ? 'The rule has no part in this sample.'
          : 'Being computed …'),
  };
}

/** The other rules as edited and as they run; the same lists as long as none of them changes, whatever becomes of this one. */
function useOtherRules(id: string): { readonly others: readonly Rule[]; readonly running: readonly Rule[] } {
  const views = useRules().data;
  const others = (views ?? []).filter((each) => each.id !== id);
  const [kept, setKept] = useState<readonly RuleView[]>([]);
  if (kept.length !== others.length || kept.some((each, at) => each !== others[at])) setKept(others);
  return useMemo(
    () => ({
      others: kept.map((each): Rule => ({ ...each.draft, id: each.id, version: 0 })),
      running: kept.flatMap(({ id: of, published }): Rule[] =>
        published ? [{ ...published.body, id: of, version: published.version }] : [],
      ),
    }),
    [kept],
  );
}

/** Findings as they were while they say the same, so that nothing is drawn anew for them. */
function useSameFindings(findings: readonly Finding[]): readonly Finding[] {
  const [kept, setKept] = useState(findings);
  if (kept === findings || JSON.stringify(kept) === JSON.stringify(findings)) return kept;
  setKept(findings);
  return findings;
}
