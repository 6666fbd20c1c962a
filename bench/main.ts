import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { benchLedger } from './ledger';
import { benchPropagation } from './propagation';

/** `npm run bench`: every figure in one run, as a table and as JSON in `bench/results/`. */
const groups = { ledger: await benchLedger(), propagation: await benchPropagation() };
for (const [name, figures] of Object.entries(groups)) {
  console.log(`\n${name}`);
  for (const { what, value, unit, wanted, met } of figures) {
    const promise = wanted === undefined ? '' : `${wanted}: ${met ? 'met' : 'NOT MET'}`;
    console.log(
      `  ${what.padEnd(58)} ${value.toFixed(unit === '×' ? 2 : 1).padStart(9)} ${unit.padEnd(3)} ${promise}`,
    );
  }
}
mkdirSync('bench/results', { recursive: true });
const machine = { node: process.version, cpu: cpus()[0]?.model ?? '', cores: cpus().length };
writeFileSync(
  'bench/results/latest.json',
  `${JSON.stringify({ at: new Date().toISOString(), machine, groups }, null, 2)}\n`,
);
