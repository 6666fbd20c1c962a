import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
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

/** `npm run bench [GROUP…]`: the figures of all groups, or of some, as a table and as JSON in `bench/results/`. */
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
// Names of groups on the command line leave the others as they were measured last.
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

/** The figures of a group, and when and on what they were measured. */
interface Measured {
  readonly at: string;
  readonly machine: { readonly node: string; readonly cpu: string; readonly cores: number };
  readonly figures: readonly Figure[];
}

const file = 'bench/results/latest.json';
// What we kept ourselves has the shape in which we kept it.
const known = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, Measured>) : {};
const machine = { node: process.version, cpu: cpus()[0]?.model ?? '', cores: cpus().length };
const at = new Date().toISOString();
const kept = Object.keys(all).flatMap((name) => {
  const figures = groups[name];
  const measured = figures ? { at, machine, figures } : known[name];
  return measured ? [[name, measured] as const] : [];
});
mkdirSync('bench/results', { recursive: true });
writeFileSync(file, `${JSON.stringify(Object.fromEntries(kept), null, 2)}\n`);
