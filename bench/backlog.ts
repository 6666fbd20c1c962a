import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { Webhook } from 'standardwebhooks';
import { Agent, request } from 'undici';
import { local } from '../scripts/machine/folders.mjs';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startNode } from '../scripts/machine/processes.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import { quiet } from './systems';
import type { Figure } from './timing';
import { partyOfCompany, worldWithOneRule } from './world';

const companies = 1000;
const rounds = 4;
/** Taking in is measured in more rounds: they are short, and what is compiled by use is so by then. */
const intakeRounds = 12;
const inARow = 200;
/** Requests of the sender that are on their way at once. */
const atOnce = 64;

/**
 * Events of many records at once: how fast they are taken in, and how fast they are taken in and handled to the end, with one worker and
 * with two, beside a script that takes the same events, inserts a row for each and makes the same calls in bulk.
 */
export async function benchBacklog(): Promise<readonly Figure[]> {
  const folder = join(local, 'bench-backlog');
  worldWithOneRule(folder, {
    name: 'Phone to its party',
    note: '',
    trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: ['phone'] },
    guard: '',
    finds: [partyOfCompany],
    actions: [
      { kind: 'write', target: 'party', lines: [{ field: 'phone', formula: 'phone', policy: 'always' }] },
    ],
  });
  const takenIn = await withStack(folder, 0, measureIntake);
  const one = await withStack(folder, 1, measureHandling);
  const two = await withStack(folder, 2, measureHandling);
  const ratio = (what: string, ours: number, theirs: number, wanted: number): readonly Figure[] => [
    { what, value: ours, unit: '/s' },
    { what: 'the same by a script', value: theirs, unit: '/s' },
    {
      what: `${what}, against the script`,
      value: ours / theirs,
      unit: '×',
      wanted: `at least ${wanted}`,
      met: ours / theirs >= wanted,
    },
  ];
  return [
    ...ratio('events taken in', takenIn.product, takenIn.script, 0.7),
    ...ratio(`backlog of ${companies}, one worker`, one.product, one.script, 0.5),
    ...ratio(`backlog of ${companies}, two workers`, two.product, one.script, 0.5),
    ...ratio(`${inARow} events of one record, one worker`, one.row, one.rowScript, 0.5),
    ...one.processor,
  ];
}

async function withStack<T>(folder: string, workers: number, work: (world: World) => Promise<T>): Promise<T> {
  removeData('bench');
  const stack = await startStack({
    name: 'bench',
    workers,
    extra: { DEMO_FOLDER: folder, LOG_LEVEL: 'fatal', INTAKE_PER_SECOND: '100000' },
  });
  const desk = new pg.Client({ connectionString: stack.database('freight_desk') });
  await desk.connect();
  const sender = new Agent({ connections: atOnce, pipelining: 1 });
  try {
    await desk.query(
      `INSERT INTO records (type, id, version, doc, updated_at)
       SELECT 'party', 'PM' || n, 1, jsonb_build_object('name', 'Slate ' || n, 'customerNumber', 'CM' || n), now()
       FROM generate_series(1, $1::integer) AS n`,
      [companies],
    );
    return await work({ stack, desk, sender, round: 0 });
  } finally {
    await sender.close();
    await desk.end();
    await stack.stop();
  }
}

interface World {
  readonly stack: Stack;
  readonly desk: pg.Client;
  readonly sender: Agent;
  round: number;
}

interface Signed {
  readonly body: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** Returns events of changed companies, signed: one of each, or so many of one in a row. */
function events({ stack, round }: World, which: 'each' | 'one', count: number): readonly Signed[] {
  const secret = stack.connections['customer-book']?.webhookSecret ?? '';
  const now = new Date();
  return Array.from({ length: count }, (_none, at) => {
    const id = `CM${which === 'each' ? at + 1 : 1}`;
    const revision = round * 10_000 + at;
    const eventId = `bench-${round}-${which}-${at}`;
    const body = JSON.stringify({
      specversion: '1.0',
      id: eventId,
      source: '/customer-book',
      type: 'customer-book.company.updated',
      subject: id,
      time: now.toISOString(),
      datacontenttype: 'application/json',
      data: {
        record: { id, revision, name: `Slate ${id}`, phone: phoneOf(round, at), status: 'active' },
      },
    });
    return {
      body,
      headers: {
        'content-type': 'application/cloudevents+json',
        'webhook-id': eventId,
        'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
        'webhook-signature': new Webhook(secret).sign(eventId, now, body),
      },
    };
  });
}

const phoneOf = (round: number, at: number) => `+441632${String(round * 1000 + at).padStart(6, '0')}`;

async function send(sender: Agent, url: string, all: readonly Signed[], lanes = atOnce): Promise<void> {
  let next = 0;
  const lane = async () => {
    for (let one = all[next++]; one; one = all[next++]) {
      const answer = await request(`${url}/hooks/customer-book`, {
        method: 'POST',
        dispatcher: sender,
        ...one,
      });
      const text = await answer.body.text();
      if (answer.statusCode !== 202) throw new Error(`${answer.statusCode}: ${text}`);
    }
  };
  await Promise.all(Array.from({ length: lanes }, lane));
}

/** Starts what does the same by hand. */
async function startScript({ stack }: World, more: Readonly<Record<string, string>>) {
  let port = '';
  const { baseUrl = '', token = '' } = stack.connections['freight-desk'] ?? {};
  const running = await startNode(
    'The script',
    ['bench/bareServer.mjs'],
    { DATABASE_URL: stack.database('vast_knot'), DESK: baseUrl, DESK_KEY: token, ...more },
    (line: string) => {
      port = /^port (\d+)/.exec(line)?.[1] ?? port;
    },
  );
  return { url: `http://127.0.0.1:${port}`, stop: () => running.stop() };
}

/** Events taken in a second: by the product without a worker, and by a server that does nothing but insert. */
async function measureIntake(world: World): Promise<{ product: number; script: number }> {
  const script = await startScript(world, {});
  const best = { product: 0, script: 0 };
  for (let round = 0; round <= intakeRounds; round++) {
    world.round++;
    for (const [who, url] of [
      ['script', script.url],
      ['product', world.stack.url],
    ] as const) {
      const all = events(world, 'each', companies);
      const start = performance.now();
      await send(world.sender, url, all);
      // The first round is for warming up.
      if (round > 0) best[who] = Math.max(best[who], (companies * 1000) / (performance.now() - start));
    }
  }
  await script.stop();
  return best;
}

interface Handled {
  readonly product: number;
  readonly script: number;
  readonly row: number;
  readonly rowScript: number;
  readonly processor: readonly Figure[];
}

/** Events handled to the end in a second, from the first that is sent to the last write. */
async function measureHandling(world: World): Promise<Handled> {
  const { stack } = world;
  const bulk = await startScript(world, { WORKS: '1' });
  const single = await startScript(world, { WORKS: '1', ONE_BY_ONE: '1' });
  // What a company was like has to be known before it is seen what changed.
  world.round++;
  await send(world.sender, stack.url, events(world, 'each', companies));
  await quiet(stack);
  const best = { product: 0, script: 0, row: 0, rowScript: 0 };
  let processor: readonly Figure[] = [];
  for (let round = 0; round <= rounds; round++) {
    for (const [what, url, which, count] of [
      ['script', bulk.url, 'each', companies],
      ['product', stack.url, 'each', companies],
      ['rowScript', single.url, 'one', inARow],
      ['row', stack.url, 'one', inARow],
    ] as const) {
      world.round++;
      const all = events(world, which, count);
      const before = processorOf(stack);
      const start = performance.now();
      // Events of one record are sent one after the other, as a system sends them.
      const sent = send(world.sender, url, all, which === 'one' ? 1 : atOnce);
      await arrived(world, which, count);
      await sent;
      const took = performance.now() - start;
      if (round > 0) {
        if (what === 'product' && (count * 1000) / took > best.product)
          processor = processorFigures(before, processorOf(stack), count);
        best[what] = Math.max(best[what], (count * 1000) / took);
      }
      await quiet(stack);
    }
  }
  await bulk.stop();
  await single.stop();
  return { ...best, processor };
}

/** Waits until the last change stands in every party. */
async function arrived({ desk, round }: World, which: 'each' | 'one', count: number): Promise<void> {
  for (;;) {
    const { rows } = await desk.query<{ open: number }>(
      which === 'each'
        ? `SELECT count(*)::integer AS open FROM records WHERE type = 'party' AND id LIKE 'PM%'
             AND doc->>'phone' IS DISTINCT FROM '+441632' || lpad(($1 * 1000 + substr(id, 3)::integer - 1)::text, 6, '0')`
        : `SELECT count(*)::integer AS open FROM records WHERE type = 'party' AND id = 'PM1'
             AND doc->>'phone' IS DISTINCT FROM '+441632' || lpad(($1 * 1000 + ${count - 1})::text, 6, '0')`,
      [round],
    );
    if (rows[0]?.open === 0) return;
    await new Promise((done) => setTimeout(done, 20));
  }
}

/** The processor time of the product's processes so far, in milliseconds. */
function processorOf({ server, workers }: Stack): Readonly<Record<string, number>> {
  return {
    'taking in and answering': timeOf(server.pid),
    working: workers.map(({ pid }) => timeOf(pid)).reduce((sum, one) => sum + one, 0),
  };
}

function timeOf(pid: number): number {
  // Fields 14 and 15 of /proc/PID/stat, in hundredths of a second (man proc).
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return (Number(fields[11]) + Number(fields[12])) * 10;
}

function processorFigures(
  before: Readonly<Record<string, number>>,
  after: Readonly<Record<string, number>>,
  count: number,
): readonly Figure[] {
  return Object.entries(after).map(([what, time]) => ({
    what: `processor time for an event: ${what}`,
    value: (time - (before[what] ?? 0)) / count,
    unit: 'ms',
  }));
}
