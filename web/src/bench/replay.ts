import {
  differencesBetween,
  ensemble,
  replaySample,
  startedRules,
  type Ensemble,
  type OutcomeComparison,
  type OutcomeDifference,
  type OutcomeOf,
  type Report,
  type Rule,
  type Sample,
  type SampleVerdict,
  type Surroundings,
} from '@vast-knot/core';

interface ReplayInput {
  readonly rules: readonly Rule[];
  /** Rules that take no part themselves, and whose actions those that do may apply. */
  readonly others?: readonly Rule[];
  readonly sample: Sample;
}

interface ReplayOutput {
  readonly report: Report;
  readonly outcome: OutcomeOf;
  readonly comparison: OutcomeComparison;
  /** Mistakes of rules that could not take part, by rule. */
  readonly mistakes: Ensemble['mistakes'];
}

/** Replays a sample through rules over the sample's own records: the same computation as live, and nothing is written. */
export async function replay(
  { rules, others, sample }: ReplayInput,
  surroundings: Surroundings,
): Promise<ReplayOutput> {
  const made = ensemble(rules, surroundings, others);
  return { ...(await replaySample(sample, made, surroundings)), mistakes: made.mistakes };
}

/** What came of one sample among many. */
export interface SampleResult {
  readonly id: string;
  readonly verdict: SampleVerdict;
  readonly differences: number;
  /** Ids of the rules that it starts. */
  readonly starts: readonly string[];
}

/** Replays many samples through the same rules. */
export async function replayAll(
  { rules, samples }: { readonly rules: readonly Rule[]; readonly samples: readonly Sample[] },
  surroundings: Surroundings,
): Promise<readonly SampleResult[]> {
  const made = ensemble(rules, surroundings);
  const results: SampleResult[] = [];
  for (const sample of samples) {
    const { comparison, report } = await replaySample(sample, made, surroundings);
    const { verdict, differences } = comparison;
    results.push({ id: sample.id, verdict, differences, starts: startsOf(report) });
  }
  return results;
}

function startsOf(report: Report): readonly string[] {
  return [...new Set(startedRules(report).map(({ ruleId }) => ruleId))];
}

/** Samples, and the rules as they are and as they would be. */
interface TwoVersions {
  readonly now: readonly Rule[];
  readonly then: readonly Rule[];
  readonly samples: readonly Sample[];
}

/** What publishing would change for one sample. */
export interface VerdictChange {
  readonly id: string;
  readonly name: string;
  readonly now: SampleVerdict;
  readonly then: SampleVerdict;
  readonly differences: number;
}

/** Returns the verdicts of samples under the rules as published, and as they would be with others of them. */
export async function verdictChanges(
  { now, then, samples }: TwoVersions,
  surroundings: Surroundings,
): Promise<readonly VerdictChange[]> {
  const before = await replayAll({ rules: now, samples }, surroundings);
  const after = await replayAll({ rules: then, samples }, surroundings);
  return samples.map(({ id, name }, at) => ({
    id,
    name,
    now: before[at]?.verdict ?? 'nothing expected',
    then: after[at]?.verdict ?? 'nothing expected',
    differences: after[at]?.differences ?? 0,
  }));
}

/** What one sample leaves differently under two sets of rules. */
export interface SampleDifferences {
  readonly id: string;
  readonly differences: readonly OutcomeDifference[];
  /** Ids of the rules that it starts under the second of the two. */
  readonly starts: readonly string[];
}

/** Returns each sample under two sets of rules, field by field. */
export async function compareAll(
  { now, then, samples }: TwoVersions,
  surroundings: Surroundings,
): Promise<readonly SampleDifferences[]> {
  const [one, other] = [ensemble(now, surroundings), ensemble(then, surroundings)];
  const compared: SampleDifferences[] = [];
  for (const sample of samples) {
    const before = await replaySample(sample, one, surroundings);
    const after = await replaySample(sample, other, surroundings);
    const differences = differencesBetween(before.outcome, after.outcome, surroundings.catalog);
    compared.push({ id: sample.id, differences, starts: startsOf(after.report) });
  }
  return compared;
}
