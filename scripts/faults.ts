import { runFaults, type FaultPlan } from '../e2e/faults/faults';
import { removeData } from './machine/postgres.mjs';
import { startStack } from './machine/stack.mjs';

/**
 * `npm run faults`: the long form. `npm run faults -- 7` takes 7 as the seed. Prints what was lost, doubled and wrong, and how long it
 * took to go on; ends with 1 where anything was.
 */
const plan: FaultPlan = {
  seed: Number(process.argv[2] ?? 1),
  changes: 600,
  everyMs: 120,
  kills: { server: 50, worker: 50, postgres: 10 },
  dials: 25,
};
// On a database that keeps what it has taken: tests elsewhere do without.
const open = (name: string) => {
  removeData(`faults-${name}`);
  return startStack({ name: `faults-${name}`, lasting: true, workers: 2, extra: { LOG_LEVEL: 'fatal' } });
};
const say = (line: string) => void process.stdout.write(`${new Date().toISOString()} ${line}\n`);
const { lost, doubled, wrong, outages, changes, kills } = await runFaults(open, plan, say);
for (const [what, records] of Object.entries({ lost, doubled, wrong }))
  for (const record of records.slice(0, 10)) say(`${what}: ${record}`);
const seconds = (ms: number) => `${(ms / 1000).toFixed(1)} s`;
for (const { awayMs, goesOnMs } of outages)
  say(
    `the database was away for ${seconds(awayMs)}; the next change was dealt with ${seconds(goesOnMs)} after it was back`,
  );
const slowest = Math.max(0, ...outages.map(({ goesOnMs }) => goesOnMs));
say(`${changes} changes, ${kills} kills; seed ${plan.seed}`);
say(`${lost.length} lost, ${doubled.length} doubled, ${wrong.length} wrong`);
say(`each time the next change was dealt with within ${seconds(slowest)} of the database's return`);
process.exit(lost.length + doubled.length + wrong.length === 0 ? 0 : 1);
