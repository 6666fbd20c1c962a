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

export interface ReplayInput {
  readonly rules: readonly Rule[];
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
  { rules, sample }: ReplayInput,
  { catalog, tables }: Surroundings,
): Promise<ReplayOutput> {
  const compiled: CompiledRule[] = [];
  const mistakes: ReplayOutput['mistakes'][number][] = [];
  for (const rule of rules) {
    const result = compileRule(rule, { catalog, tables });
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
