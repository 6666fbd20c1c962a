import type { CompiledRule } from '../engine/compiled';
import { compileRule } from '../engine/compileRule';
import type { RuleProblem } from '../engine/compiling';
import type { Report } from '../engine/report';
import { runEvent } from '../engine/run';
import type { Surroundings } from '../engine/surroundings';
import type { Rule } from '../engine/rule';
import type { Sample } from '../model/sample';
import { MemoryWorkspace } from '../workspace/memory';
import { compareOutcome, type OutcomeComparison } from './compareOutcome';
import { outcomeOf, type OutcomeOf } from './outcome';

/** Rules made ready for replays, and those that could not be. */
export interface Ensemble {
  readonly compiled: readonly CompiledRule[];
  /** By the name of the rule. */
  readonly mistakes: readonly {
    readonly rule: string;
    readonly problems: readonly { readonly at: string; readonly message: string }[];
  }[];
}

export interface Replayed {
  readonly report: Report;
  readonly outcome: OutcomeOf;
  readonly comparison: OutcomeComparison;
}

/** Compiles rules once for many replays. `others` take no part themselves; rules that do may apply their actions. */
export function ensemble(
  rules: readonly Rule[],
  surroundings: Surroundings,
  others: readonly Rule[] = [],
): Ensemble {
  const known = { ...surroundings, rules: new Map([...others, ...rules].map((rule) => [rule.id, rule])) };
  const compiled: CompiledRule[] = [];
  const mistakes: Ensemble['mistakes'][number][] = [];
  for (const rule of rules) {
    const result = compileRule(rule, known);
    if (result.ok) compiled.push(result.compiled);
    else mistakes.push({ rule: rule.name, problems: result.problems.map(toMessage) });
  }
  return { compiled, mistakes };
}

/** Replays a sample over its own records, as of the time of its event: the same computation as live, and nothing is written. */
export async function replaySample(
  sample: Sample,
  { compiled }: Ensemble,
  { catalog }: Pick<Surroundings, 'catalog'>,
): Promise<Replayed> {
  const workspace = new MemoryWorkspace(catalog, sample.records);
  const { report } = await runEvent(sample.event, { catalog, rules: compiled, workspace });
  const outcome = outcomeOf(report);
  return { report, outcome, comparison: compareOutcome(outcome, sample.expected, catalog) };
}

function toMessage({ at, error }: RuleProblem): { readonly at: string; readonly message: string } {
  return { at, message: error.message };
}
