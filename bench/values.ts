import pg from 'pg';
import type { Sightings } from '@vast-knot/core';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack } from '../scripts/machine/stack.mjs';
import { signedIn } from './api';
import type { Figure } from './timing';

const records = 1_000_000;
const rounds = 5;
const mostMs = 300;

/** What people look for: a part of a name, a number written another way, what many hold, and what none does. */
const questions: readonly (readonly [what: string, text: string, atLeast: number])[] = [
  ['a part of a name', 'ompany 421742', 1],
  ['a telephone number, written another way', '+44 1632 421742', 1],
  ['an id', 'M-421742', 1],
  ['a town that ten thousand hold', 'Harbour Town 42', 60],
  ['a word that all hold', 'company', 60],
  ['what no record holds', 'Nowhere at all', 0],
];

/** Values among a million records as they were last seen, through the API, and how soon what changed is found. */
export async function benchValues(): Promise<readonly Figure[]> {
  removeData('bench');
  const stack = await startStack({ name: 'bench', extra: { LOG_LEVEL: 'fatal' } });
  const database = new pg.Client({ connectionString: stack.database('vast_knot') });
  try {
    await database.connect();
    const api = await signedIn(stack);
    const drained = async () => {
      for (;;) {
        const { rows } = await database.query('SELECT FROM images_unread LIMIT 1');
        if (rows.length === 0) return;
        await new Promise((done) => setTimeout(done, 50));
      }
    };
    await drained();
    await database.query(
      `INSERT INTO images (system, record_type, record_id, record)
       SELECT 'customer-book', 'company', 'M-' || n, jsonb_build_object('id', 'M-' || n, 'name', 'Company ' || n,
         'phone', '01632 ' || lpad(n::text, 6, '0'), 'address', jsonb_build_object('town', 'Harbour Town ' || n % 100, 'street', n || ' Quay Lane'))
       FROM generate_series(1, $1::integer) AS n`,
      [records],
    );
    const began = performance.now();
    await drained();
    const filled = performance.now() - began;
    await database.query('VACUUM ANALYZE');
    const figures: Figure[] = [
      {
        what: `${records.toLocaleString('en')} records: their words are kept`,
        value: filled / 1000,
        unit: 's',
      },
    ];
    for (const [what, text, atLeast] of questions) {
      let best = Infinity;
      for (let round = 0; round < rounds; round++) {
        const asked = performance.now();
        const { places } = await api<Sightings>('GET', `/values/known?text=${encodeURIComponent(text)}`);
        best = Math.min(best, performance.now() - asked);
        if (places.length < atLeast) throw new Error(`“${text}” is found in ${places.length} fields only`);
      }
      figures.push({ what, value: best, unit: 'ms', wanted: `under ${mostMs}`, met: best < mostMs });
    }
    return figures;
  } finally {
    await database.end();
    await stack.stop();
  }
}
