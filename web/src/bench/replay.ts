import {
  Catalog,
  compileRule,
  MemoryWorkspace,
  runEvent,
  TableIndex,
  type CompiledRule,
  type LookupTable,
  type Report,
  type Rule,
  type RuleProblem,
  type Sample,
  type System,
} from '@vast-knot/core';

/** Everything a replay is computed from; it can be sent to a worker as it is. */
export interface ReplayInput {
  readonly systems: readonly System[];
  readonly tables: readonly LookupTable[];
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
export async function replay({ systems, tables, rules, sample }: ReplayInput): Promise<ReplayOutput> {
  const catalog = new Catalog(systems);
  const indexes = new Map(tables.map((table) => [table.name, new TableIndex(table)]));
  const compiled: CompiledRule[] = [];
  const mistakes: ReplayOutput['mistakes'][number][] = [];
  for (const rule of rules) {
    const result = compileRule(rule, { catalog, tables: indexes });
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
