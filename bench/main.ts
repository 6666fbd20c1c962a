import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { benchBacklog } from './backlog';
import { benchBroughtIntoLine } from './broughtIntoLine';
import { benchLedger } from './ledger';
import { benchComparing } from './comparing';
import { benchDatabaseRows } from './databaseRows';
import { benchExisting } from './existing';
import { benchInterface } from './interface';
import { benchLayingOut } from './layingOut';
import { benchLearning } from './learning';
import { benchListOfObjects } from './listOfObjects';
import { benchManyChildren } from './manyChildren';
import { benchManyOfAll } from './manyOfAll';
import { benchManyRules } from './manyRules';
import { benchManyRuns } from './manyRuns';
import { benchMillionRows } from './millionRows';
import { benchPropagation } from './propagation';
import { benchReplays } from './replays';
import { benchThirtyLines } from './thirtyLines';
import { benchValues } from './values';
import { benchWideOutcome } from './wideOutcome';
import type { Figure } from './timing';

/** `npm run bench`: every figure in one run, as a table and as JSON in `bench/results/`. */
const all = {
  ledger: benchLedger,
  thirtyLines: benchThirtyLines,
  listOfObjects: benchListOfObjects,
  manyRules: benchManyRules,
  manyRuns: benchManyRuns,
  millionRows: benchMillionRows,
  values: benchValues,
  interface: benchInterface,
  manyOfAll: benchManyOfAll,
  layingOut: benchLayingOut,
  learning: benchLearning,
  comparing: benchComparing,
  databaseRows: benchDatabaseRows,
  existing: benchExisting,
  broughtIntoLine: benchBroughtIntoLine,
  backlog: benchBacklog,
  propagation: benchPropagation,
  manyChildren: benchManyChildren,
  replays: benchReplays,
  wideOutcome: benchWideOutcome,
};
// Names of groups on the command line leave the others out; their last figures are then not kept.
const wanted = process.argv.slice(2);
const groups: Record<string, readonly Figure[]> = {};
for (const [name, measure] of Object.entries(all)) {
  if (wanted.length === 0 || wanted.includes(name)) groups[name] = await measure();
}
for (const [name, figures] of Object.entries(groups)) {
  console.log(`\n${name}`);
  for (const { what, value, unit, wanted, met } of figures) {
    const promise = wanted === undefined ? '' : `${wanted}: ${met ? 'met' : 'NOT MET'}`;
    console.log(
      `  ${what.padEnd(58)} ${value.toFixed(unit === '×' ? 2 : 1).padStart(9)} ${unit.padEnd(3)} ${promise}`,
    );
  }
}
if (wanted.length === 0) {
  mkdirSync('bench/results', { recursive: true });
  const machine = { node: process.version, cpu: cpus()[0]?.model ?? '', cores: cpus().length };
  writeFileSync(
    'bench/results/latest.json',
    `${JSON.stringify({ at: new Date().toISOString(), machine, groups }, null, 2)}\n`,
  );
}
