import {
  compileRule,
  MemoryWorkspace,
  runEvent,
  type CompiledRule,
  type Report,
  type Rule,
  type RuleProblem,
  type Sample,
  type Surroundings,
} from '@vast-knot/core';
import { withRules } from '../work/withRules';

export interface ReplayInput {
  readonly rules: readonly Rule[];
  /** Rules that take no part themselves, and whose actions those that do may apply. */
  readonly others?: readonly Rule[];
  readonly sample: Sample;
}

export interface ReplayOutput {
  readonly report: Report;
  /** Mistakes of rules that could not take part, by rule. */
  readonly mistakes: readonly {
    readonly rule: string;
    readonly problems: readonly { readonly at: string; readonly message: string }[];
  }[];
}

/** Replays a sample through rules over the sample's own records: the same computation as live, and nothing is written. */
export async function replay(
  { rules, others = [], sample }: ReplayInput,
  { catalog, tables }: Surroundings,
): Promise<ReplayOutput> {
  const compiled: CompiledRule[] = [];
  const mistakes: ReplayOutput['mistakes'][number][] = [];
  const surroundings = withRules({ catalog, tables }, [...others, ...rules]);
  for (const rule of rules) {
    const result = compileRule(rule, surroundings);
    if (result.ok) compiled.push(result.compiled);
    else mistakes.push({ rule: rule.name, problems: result.problems.map(toMessage) });
  }
  const workspace = new MemoryWorkspace(catalog, sample.records);
  const { report } = await runEvent(sample.event, { catalog, rules: compiled, workspace });
  return { report, mistakes };
}

function toMessage({ at, error }: RuleProblem): { readonly at: string; readonly message: string } {
  return { at, message: error.message };
}
