import { writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import {
  printJson,
  describeOutcome,
  differenceLines,
  ensembleIn,
  replaySample,
  surroundingsIn,
  toJUnitXml,
  type JUnitCase,
  type Sample,
  type WholeBundle,
} from '@vast-knot/core';
import { WrongInput } from './files';
import type { Say } from './say';

interface ReplayOptions {
  readonly sample?: string | undefined;
  /** Takes the rules that are not published as well. */
  readonly drafts?: boolean | undefined;
  readonly junit?: string | undefined;
  readonly json?: string | undefined;
}

/** Replays the samples of bundles. Returns 0 when all hold, 1 when some do not. */
export async function replay(
  bundle: WholeBundle,
  { sample: name, drafts = false, junit, json }: ReplayOptions,
  folder: string,
  say: Say,
): Promise<number> {
  const samples = chosen(bundle.samples, name);
  const surroundings = surroundingsIn(bundle);
  const made = ensembleIn(bundle, surroundings, drafts);
  for (const { rule, problems } of made.mistakes)
    say(`The rule “${rule}” does not take part: ${problems.map(({ message }) => message).join(' ')}`);
  const cases: JUnitCase[] = [];
  const results: unknown[] = [];
  const width = Math.max(...samples.map((each) => each.name.length));
  for (const sample of samples) {
    const start = performance.now();
    const { report, comparison } = await replaySample(sample, made, surroundings);
    const seconds = (performance.now() - start) / 1000;
    const differences = differenceLines(comparison);
    say(`${sample.name.padEnd(width)}  ${comparison.verdict}`);
    for (const line of differences) say(`  ${line}`);
    cases.push({
      group: `${sample.event.ref.system}.${sample.event.ref.recordType}`,
      name: sample.name,
      seconds,
      ...(comparison.verdict === 'differs' && { failures: differences }),
      ...(comparison.verdict === 'nothing expected' && { skipped: 'Nobody has said what is expected.' }),
    });
    results.push({
      sample: sample.name,
      verdict: comparison.verdict,
      comparison,
      outcome: describeOutcome(report),
    });
  }
  if (junit !== undefined) writeFileSync(resolve(folder, junit), toJUnitXml('vast-knot', cases));
  if (json !== undefined) writeFileSync(resolve(folder, json), `${printJson(results, 2)}\n`);
  const failed = cases.filter(({ failures }) => failures !== undefined).length;
  const silent = cases.filter(({ skipped }) => skipped !== undefined).length;
  say(
    `${cases.length - failed - silent} hold, ${failed} differ${silent > 0 ? `, ${silent} expect nothing` : ''}`,
  );
  return failed > 0 || made.mistakes.length > 0 ? 1 : 0;
}

function chosen(samples: readonly Sample[], name: string | undefined): readonly Sample[] {
  const wanted =
    name === undefined ? samples : samples.filter((each) => each.name === name || each.id === name);
  if (wanted.length === 0)
    throw new WrongInput(
      name === undefined ? 'The bundles have no samples.' : `No sample is called “${name}”.`,
    );
  return wanted;
}
