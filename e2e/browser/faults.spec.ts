import { expect, test } from '@playwright/test';
import { removeData } from '../../scripts/machine/postgres.mjs';
import { startStack } from '../../scripts/machine/stack.mjs';
import { runFaults } from '../faults/faults';

/** The short form of `npm run faults`: everything is killed once, and one system misbehaves, under a bounded load. */
test('after kills and outages every record is as after a run without faults, and nothing is doubled', async () => {
  test.setTimeout(240_000);
  const open = (name: string) => {
    removeData(`short-${name}`);
    return startStack({ name: `short-${name}`, lasting: true, workers: 1, extra: { LOG_LEVEL: 'fatal' } });
  };
  const plan = {
    seed: 3,
    changes: 40,
    everyMs: 60,
    kills: { server: 1, worker: 2, postgres: 1 },
    dials: 3,
  };
  const { lost, doubled, wrong, outages } = await runFaults(open, plan, () => undefined);
  expect({ lost, doubled, wrong }).toEqual({ lost: [], doubled: [], wrong: [] });
  expect(outages.map(({ awayMs, goesOnMs }) => awayMs + goesOnMs < 20_000)).toEqual([true]);
});
