import pg from 'pg';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import type { Figure } from './timing';

const runs = 1_000_000;
const rounds = 5;
const mostMs = 300;
const mostTodayMs = 200;

/** What people ask of the list of runs: all, by system, state, result and rule, by name, reason and id, and a page far back. */
const questions: readonly (readonly [string, string])[] = [
  ['the newest', 'own=hidden'],
  ['those of a system', 'own=hidden&system=freight-desk'],
  ['those that failed', 'state=failed'],
  ['those of one result', 'result=failed'],
  ['those of a rule', 'own=hidden&rule=0192f3a0-0000-7000-8000-000000000008'],
  ['those of a rule that never wrote', 'own=hidden&rule=0192f3a0-0000-7000-8000-000000000003'],
  ['a part of a name', 'own=hidden&search=ompany 4217'],
  ['a part of a reason', 'own=hidden&search=refused number 99907'],
  ['a text that nothing has', 'own=hidden&search=no such words'],
  ['an id', 'search=C-4217'],
  ['a page far back', 'own=hidden&before=20000'],
  ['those of a rare kind', 'kind=reconciled'],
  ['those in which a field changed', 'own=hidden&field=phone'],
  ['those of a day half a year ago', 'own=hidden&from=2026-05-20T00:00:00Z&to=2026-05-21T00:00:00Z'],
];

/** The list of runs, its filters and its search, through the API, with a million runs of a year and more. */
export async function benchManyRuns(): Promise<readonly Figure[]> {
  removeData('bench');
  const stack = await startStack({ name: 'bench', workers: 0, extra: { LOG_LEVEL: 'fatal' } });
  try {
    await fill(stack);
    const cookie = await signedIn(stack);
    const figures: Figure[] = [];
    const ask = async (what: string, path: string, most: number) => {
      let best = Infinity;
      for (let round = 0; round < rounds; round++) {
        const began = performance.now();
        const answer = await fetch(`${stack.url}/api/${path}`, { headers: { cookie } });
        const text = await answer.text();
        if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text}`);
        best = Math.min(best, performance.now() - began);
      }
      figures.push({
        what: `with ${runs.toLocaleString('en')} runs: ${what}`,
        value: best,
        unit: 'ms',
        wanted: `under ${most}`,
        met: best < most,
      });
    };
    for (const [what, query] of questions) await ask(`the list, ${what}`, `runs?${query}`, mostMs);
    await ask('when they came, as a chart', 'runs/times?own=hidden', mostMs);
    await ask('how things stand, the first page', 'today', mostTodayMs);
    return figures;
  } finally {
    await stack.stop();
  }
}

/** Makes runs in the database: most are our own writes that came back, one in a hundred failed. */
async function fill(stack: Stack): Promise<void> {
  const client = new pg.Client({ connectionString: stack.database('vast_knot') });
  await client.connect();
  await client.query(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, record_name, kind, event, state, because, result, trouble, received_at)
     SELECT CASE WHEN n % 3 = 0 THEN 'freight-desk' ELSE 'customer-book' END, '/made', n::text,
       CASE WHEN n % 3 = 0 THEN 'booking' ELSE 'company' END, 'C-' || (n % 5000), 'Company ' || (n % 5000), 'updated',
       jsonb_build_object('record', jsonb_build_object('id', 'C-' || (n % 5000), 'phone', '01632 960 ' || (n % 1000))),
       CASE WHEN n % 100 = 7 THEN 'failed' ELSE 'done' END,
       CASE WHEN n % 100 = 7 THEN 'The harbour master refused number ' || n ELSE (n % 9) || ' records written.' END,
       CASE WHEN n % 100 = 7 THEN 'failed' WHEN n % 10 < 7 THEN 'own write' ELSE 'wrote' END, n % 100 = 7,
       now() - (($1 - n) * interval '400 days' / $1)
     FROM generate_series(1, $1::integer) AS n`,
    [runs],
  );
  await client.query(
    `INSERT INTO runs (id, state, result, because, rules_fired, finished_at)
     SELECT id, 'done', result, because,
       CASE WHEN result = 'own write' THEN '{}' ELSE ARRAY['0192f3a0-0000-7000-8000-' || lpad((id % 20)::text, 12, '0')] END, received_at
     FROM inbox`,
  );
  await client.query(
    `INSERT INTO writes (run_id, plan, seq, system, record_type, record_id, key, state)
     SELECT id, 1, 0, 'freight-desk', 'booking', record_id, gen_random_uuid(), 'written' FROM inbox WHERE result = 'wrote'`,
  );
  await client.query('VACUUM ANALYZE');
  await client.end();
}

async function signedIn({ url, user, password }: Stack): Promise<string> {
  const answer = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: user, password }),
  });
  if (!answer.ok) throw new Error(`signing in: ${answer.status}`);
  return answer.headers
    .getSetCookie()
    .map((each) => each.split(';')[0])
    .join('; ');
}
