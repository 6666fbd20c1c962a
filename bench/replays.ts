import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  ensembleIn,
  HistoryComparison,
  readBundles,
  replaySample,
  surroundingsIn,
  type Sample,
} from '@vast-knot/core';
import type { Figure } from './timing';

const samplesAtOnce = 1000;
const events = 10_000;

/** The samples of the demo, again and again: all replayed, and as events of the past through two sets of rules. */
export async function benchReplays(): Promise<readonly Figure[]> {
  const files = readdirSync('demo', { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.json'))
    .sort();
  const read = readBundles(
    files.map((file) => ({ file, json: JSON.parse(readFileSync(join('demo', file), 'utf8')) as unknown })),
  );
  if (!read.ok) throw new Error(read.problems[0]?.message);
  const { bundle } = read;
  const surroundings = surroundingsIn(bundle);
  const now = ensembleIn(bundle, surroundings);
  const sampleAt = (at: number) => bundle.samples[at % bundle.samples.length] as Sample;

  const start = performance.now();
  let holding = 0;
  for (let at = 0; at < samplesAtOnce; at++) {
    const { comparison } = await replaySample(sampleAt(at), now, surroundings);
    if (comparison.verdict === 'holds') holding++;
  }
  const replayed = performance.now() - start;
  if (holding !== samplesAtOnce)
    throw new Error(`${samplesAtOnce - holding} samples of the demo do not hold`);

  const history = new HistoryComparison(now, ensembleIn(bundle, surroundings, true), surroundings);
  const memory: number[] = [];
  const began = performance.now();
  for (let at = 0; at < events; at++) {
    const { event, records } = sampleAt(at);
    await history.take(String(at), { ...event, id: String(at) }, records);
    if (at % 500 === 499) memory.push(process.memoryUsage().heapUsed / 1024 / 1024);
  }
  const compared = performance.now() - began;
  return [
    {
      what: `${samplesAtOnce} samples replayed and compared with what is expected`,
      value: replayed,
      unit: 'ms',
      wanted: 'at most 2,000',
      met: replayed <= 2000,
    },
    {
      what: `${events} events through published and edited rules`,
      value: compared,
      unit: 'ms',
      wanted: 'at most 20,000',
      met: compared <= 20_000,
    },
    { what: 'heap after the first 500 of them', value: memory[0] ?? NaN, unit: 'MB' },
    { what: 'heap at most, looked at every 500', value: Math.max(...memory), unit: 'MB' },
    { what: 'groups of differences', value: history.summary().groups.length, unit: '' },
  ];
}
