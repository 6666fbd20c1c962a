import { execFileSync } from 'node:child_process';
import { layingRows, layOutAll, scriptAll } from './layingOutWork';
import { bestTimes, type Figure } from './timing';

const rounds = 3;
const [leastRate, mostMemory] = [0.5, 300];

/** The rows of a file laid out, against a script that parses and maps the same with the same package; and the memory that it takes. */
export async function benchLayingOut(): Promise<readonly Figure[]> {
  const works = {
    script: async () => {
      await scriptAll();
    },
    product: async () => {
      await layOutAll();
    },
  };
  const times = await bestTimes(works, rounds);
  const rate = times.script / times.product;
  const memory = Number(
    execFileSync(process.execPath, ['--import', 'tsx', 'bench/layingOutMemory.ts'], { encoding: 'utf8' }),
  );
  const rows = layingRows.toLocaleString('en');
  return [
    { what: `${rows} rows: a script that parses and maps them`, value: times.script, unit: 'ms' },
    { what: 'the same laid out', value: times.product, unit: 'ms' },
    {
      what: 'rate of laying out, against the script',
      value: rate,
      unit: '×',
      wanted: `at least ${leastRate}`,
      met: rate >= leastRate,
    },
    {
      what: 'memory of a process that does it, at its peak',
      value: memory,
      unit: 'MB',
      wanted: `at most ${mostMemory}`,
      met: memory <= mostMemory,
    },
  ];
}
