import {
  Catalog,
  checkRule,
  differenceLines,
  ensemble,
  replaySample,
  TableIndex,
  type Finding,
  type LookupTable,
  type Rule,
  type Sample,
  type SampleVerdict,
  type Surroundings,
  type System,
} from '@vast-knot/core';
import type { Ready } from './ready';

/** What comes from another environment, in the names of this one. */
export interface CarriedAsked {
  /** Those that are not here yet. */
  readonly systems: readonly System[];
  readonly addresses: readonly string[];
  /** Those that take the place of what is here. */
  readonly tables: readonly LookupTable[];
  /** The rules as they would stand, and the ids of those that would run. */
  readonly rules: readonly Rule[];
  readonly running: readonly string[];
  /** Rules as edited here, whose actions others may do. */
  readonly known: readonly Rule[];
  readonly samples: readonly Sample[];
}

/** What there is to say of each rule, and what each sample says. */
export interface CarriedAnswer {
  readonly findings: readonly (readonly Finding[])[];
  /** Rules that run here and would not any more, by name. */
  readonly broken: readonly { readonly rule: string; readonly because: string }[];
  readonly samples: readonly { readonly verdict: SampleVerdict; readonly differences: readonly string[] }[];
}

/** Holds what comes from another environment against what is here: as if it stood here already, beside the rules that run. */
export async function carried(
  { systems, addresses, tables, rules, running, known, samples }: CarriedAsked,
  ready: Ready,
): Promise<CarriedAnswer> {
  const byId = new Map([...known, ...rules].map((rule) => [rule.id, rule]));
  const surroundings: Surroundings = {
    catalog: new Catalog([...ready.catalog.systems, ...systems]),
    tables: new Map([
      ...ready.tables,
      ...tables.map((table): [string, TableIndex] => [table.name, new TableIndex(table)]),
    ]),
    endpoints: new Set([...(ready.endpoints ?? []), ...addresses]),
    rules: byId,
    compiled: new Map(),
  };
  const coming = new Set(rules.map(({ id }) => id));
  const here = ready.rules.map(({ rule }) => rule).filter(({ id }) => !coming.has(id));
  const taking = rules.filter(({ id }) => running.includes(id));
  const made = ensemble([...here, ...taking], surroundings, [...byId.values()]);
  const findings = rules.map((rule) => checkRule(rule, surroundings, made.compiled));
  const results: CarriedAnswer['samples'][number][] = [];
  for (const sample of samples) {
    const { comparison } = await replaySample(sample, made, surroundings);
    results.push({ verdict: comparison.verdict, differences: differenceLines(comparison).slice(0, 20) });
  }
  const compiled = new Set(made.compiled.map(({ rule }) => rule.id));
  const broken = here
    .filter(({ id }) => !compiled.has(id))
    .map(({ name }) => {
      const problems = made.mistakes.find(({ rule }) => rule === name)?.problems ?? [];
      return { rule: name, because: problems[0]?.message ?? '' };
    });
  return { findings, broken, samples: results };
}
