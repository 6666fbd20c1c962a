import { createHash } from 'node:crypto';
import pg from 'pg';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack } from '../scripts/machine/stack.mjs';
import { signedIn } from './api';
import { watchMemory } from './memory';
import { comparedAfter, connectPiers, piers, servePiers } from './piers';
import { bestTimes, type Figure } from './timing';

const { page, system } = piers;
const count = 100_000;
const rounds = 3;
const most = 1.5;

/** All records of a type beside their images, against a script that reads the same pages and hashes each record. */
export async function benchComparing(): Promise<readonly Figure[]> {
  const { server, host } = await servePiers(count);
  removeData('bench');
  const stack = await startStack({ name: 'bench', reach: [host], extra: { LOG_LEVEL: 'fatal' } });
  const database = new pg.Client({ connectionString: stack.database('vast_knot') });
  try {
    await database.connect();
    const api = await signedIn(stack);
    await connectPiers(api, host);
    let last = await comparedAfter(database, null);
    const hashes = new Map<string, string>();
    const script = async () => {
      for (let at = 0; at < count; at += page) {
        const answer = await fetch(`http://${host}/piers?limit=${page}&offset=${at}`);
        const { data } = (await answer.json()) as { data: { id: string }[] };
        for (const record of data) {
          const hash = createHash('sha256').update(JSON.stringify(record)).digest('base64');
          if (hashes.get(record.id) !== hash) hashes.set(record.id, hash);
        }
      }
    };
    await script();
    const times = await bestTimes(
      {
        script,
        product: async () => {
          await api('POST', `/systems/${system}/connect`);
          last = await comparedAfter(database, last);
        },
      },
      rounds,
    );
    const before = watchMemory(stack).stop();
    const watched = watchMemory(stack);
    await api('POST', `/systems/${system}/connect`);
    last = await comparedAfter(database, last);
    const memory = watched.stop() - before;
    const ratio = times.product / times.script;
    return [
      {
        what: `${count.toLocaleString('en')} records: a script that reads and hashes them`,
        value: times.script,
        unit: 'ms',
      },
      { what: 'the same beside their images', value: times.product, unit: 'ms' },
      {
        what: 'compared, against the script',
        value: ratio,
        unit: '×',
        wanted: `at most ${most}`,
        met: ratio <= most,
      },
      { what: 'memory that comparing took, at its peak', value: memory, unit: 'MB' },
    ];
  } finally {
    await database.end();
    await stack.stop();
    server.kill();
  }
}
