import pg from 'pg';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import { signedIn, type Api } from './api';
import { askSystem, companyWithParty, putInBookings, quiet, untilDone } from './systems';
import type { Figure } from './timing';

const count = 10_000;
const bulk = 100;
const rounds = 3;
const most = 1.5;
const town = 'Gullpoint';

/** A rule brings 10,000 bookings that exist into line: looked at, chosen and written, against a script that reads the same pages and sends the same changes in bulk. */
export async function benchBroughtIntoLine(): Promise<readonly Figure[]> {
  removeData('bench');
  const stack = await startStack({ name: 'bench' });
  const desk = new pg.Client({ connectionString: stack.database('freight_desk') });
  const database = new pg.Client({ connectionString: stack.database('vast_knot') });
  try {
    await desk.connect();
    await database.connect();
    const { party } = await companyWithParty(stack);
    await putInBookings(desk, party, count);
    const api = await signedIn(stack);
    const rule = await publish(api);
    await quiet(stack);
    let [script, product] = [Infinity, Infinity];
    for (let round = 0; round < rounds; round++) {
      await blank(desk);
      script = Math.min(script, await byScript(stack, desk));
      await quiet(stack);
      await blank(desk);
      product = Math.min(product, await throughProduct(api, { desk, database, rule }));
      await quiet(stack);
    }
    const ratio = product / script;
    return [
      {
        what: `${count.toLocaleString('en')} bookings that exist written by a rule, best of ${rounds}`,
        value: product,
        unit: 'ms',
      },
      { what: 'the same pages and bulk calls by a script, best', value: script, unit: 'ms' },
      {
        what: 'through the product against by script',
        value: ratio,
        unit: '×',
        wanted: `at most ${most}`,
        met: ratio <= most,
      },
    ];
  } finally {
    await database.end();
    await desk.end();
    await stack.stop();
  }
}

async function publish(api: Api): Promise<string> {
  const body: RuleBody = {
    name: 'Town of slate',
    note: '',
    trigger: { system: 'freight-desk', recordType: 'booking', kinds: ['updated'], watched: ['title'] },
    guard: 'LEFT(title, 5) = "Slate"',
    finds: [],
    actions: [
      {
        kind: 'write',
        target: 'record',
        lines: [{ field: 'collectionTown', formula: `"${town}"`, policy: 'always' }],
      },
    ],
  };
  const made = await api<RuleView>('POST', '/rules', body);
  const published = await api<RuleView>('POST', `/rules/${made.id}/publish`, undefined, made.revision);
  return published.id;
}

/** Takes the town out of all of them, in the database of the desk, where nobody hears of it. */
async function blank(desk: pg.Client): Promise<void> {
  await desk.query(
    `UPDATE records SET doc = doc - 'collectionTown' WHERE type = 'booking' AND id LIKE 'BM%'`,
  );
}

interface Rows {
  readonly desk: pg.Client;
  readonly database: pg.Client;
  readonly rule: string;
}

/** Looks, writes all that would change, and waits until the last booking is written. */
async function throughProduct(api: Api, { desk, database, rule }: Rows): Promise<number> {
  const start = performance.now();
  const { id } = await api<{ id: string }>('POST', '/reconciles', { rule });
  await untilDone(database, id);
  const { job } = await api<{ job: string }>('POST', `/reconciles/${id}/writes`, {
    filter: { standing: 'changes' },
  });
  await untilDone(database, job);
  if ((await open(desk)) !== 0) throw new Error('the product left bookings out');
  return performance.now() - start;
}

/** How many bookings do not have the town. */
async function open(desk: pg.Client): Promise<number> {
  const { rows } = await desk.query<{ open: number }>(
    `SELECT count(*)::integer AS open FROM records
     WHERE type = 'booking' AND id LIKE 'BM%' AND doc->>'collectionTown' IS DISTINCT FROM $1`,
    [town],
  );
  return rows[0]?.open ?? NaN;
}

async function byScript(stack: Stack, desk: pg.Client): Promise<number> {
  const start = performance.now();
  const found: { readonly id: string; readonly rev: number; readonly title?: string }[] = [];
  let token = '';
  do {
    const page = await askSystem<{ data: typeof found; page: { next: string | null } }>(
      stack,
      'freight-desk',
      'GET',
      `/v2/bookings?pageSize=500${token}`,
    );
    found.push(...page.data.filter(({ title }) => title?.startsWith('Slate')));
    token = page.page.next === null ? '' : `&pageToken=${page.page.next}`;
  } while (token !== '');
  for (let at = 0; at < found.length; at += bulk) {
    const operations = found.slice(at, at + bulk).map(({ id, rev }) => ({
      recordId: id,
      ifMatch: `"${rev}"`,
      changes: { collectionTown: town },
    }));
    await askSystem(stack, 'freight-desk', 'POST', '/v2/bookings/changes', { operations });
  }
  const took = performance.now() - start;
  if ((await open(desk)) !== 0) throw new Error('the script left bookings out');
  return took;
}
