import pg from 'pg';
import type { Stack } from '../../scripts/machine/stack.mjs';
import { authOf, type Application } from '../authOf';

/** How much goes wrong, and how much is done meanwhile. */
export interface FaultPlan {
  readonly seed: number;
  /** Changes that are made, in all. */
  readonly changes: number;
  /** Milliseconds between two changes. */
  readonly everyMs: number;
  /** How often each is killed without warning. */
  readonly kills: { readonly server: number; readonly worker: number; readonly postgres: number };
  /** How often a system misbehaves for a while: hangs, fails, limits, is away, tells twice and in any order. */
  readonly dials: number;
}

/** What came of it. */
export interface FaultReport {
  /** Records that the faultless run has and this one has not. */
  readonly lost: readonly string[];
  /** Records that this run has more often. */
  readonly doubled: readonly string[];
  /** Records that hold something else. */
  readonly wrong: readonly string[];
  /** What each end of the database came to. */
  readonly outages: readonly Outage[];
  readonly changes: number;
  readonly kills: number;
}

/** An end of the database, in milliseconds. */
export interface Outage {
  /** From when it was ended until it answered again: it is started anew, and goes through what it had written last. */
  readonly awayMs: number;
  /** From when it answered again until the next change was dealt with. */
  readonly goesOnMs: number;
}

/** One change of a record in its own system, by somebody else. */
interface Change {
  readonly system: Application;
  readonly path: string;
  readonly set: Readonly<Record<string, unknown>>;
}

/** A generator of numbers that gives the same ones for the same seed (mulberry32, of the public domain; from memory). */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Where everything is asked, at one stack. */
class Systems {
  constructor(private readonly stack: Stack) {}

  async ask<T>(system: Application, method: string, path: string, body?: unknown): Promise<T> {
    const { baseUrl, token } = this.stack.connections[system] ?? { baseUrl: '', token: '' };
    const response = await fetch(baseUrl + path, {
      method,
      headers: { ...authOf[system](token), 'content-type': 'application/json' },
      ...(body !== undefined && { body: JSON.stringify(body) }),
      signal: AbortSignal.timeout(10_000),
    });
    const text = await response.text();
    if (!response.ok) throw new Error(`${system} ${path}: ${response.status} ${text.slice(0, 200)}`);
    return (text === '' ? undefined : JSON.parse(text)) as T;
  }

  /** Asks until it is answered: who changes a record tries again too. */
  async insist<T>(system: Application, method: string, path: string, body?: unknown): Promise<T> {
    for (let tries = 0; ; tries++) {
      try {
        return await this.ask<T>(system, method, path, body);
      } catch (thrown) {
        if (tries === 300) throw thrown;
        await pause(200);
      }
    }
  }

  dial(system: Application, dials: object): Promise<unknown> {
    return this.insist(system, 'PUT', '/dials', dials);
  }
}

const companies = ['C-1001', 'C-1002', 'C-1003', 'C-1004', 'C-1005', 'C-1006', 'C-1007', 'C-1008'];

/** Returns what is changed, the same for the same seed: phones of companies, and jobs that come into the yard, whose tasks are created. */
export function changesOf({ seed, changes }: FaultPlan, jobs: readonly string[]): readonly Change[] {
  const random = seeded(seed);
  const left = [...jobs];
  return Array.from({ length: changes }, (_none, at): Change => {
    const job = random() < 0.3 ? left.shift() : undefined;
    if (job !== undefined)
      return { system: 'yard-planner', path: `/yard/jobs/${job}`, set: { state: 'in yard' } };
    const company = companies[Math.floor(random() * companies.length)] ?? '';
    return {
      system: 'customer-book',
      path: `/api/companies/${company}`,
      set: { phone: `01632 96${String(at % 10)} ${String(Math.floor(at / 10) % 1000).padStart(3, '0')}` },
    };
  });
}

/** Returns every record of every system as text, without the ids that are given in the order of creation. */
async function recordsOf(stack: Stack): Promise<ReadonlyMap<string, readonly string[]>> {
  const all = new Map<string, readonly string[]>();
  for (const system of ['customer-book', 'freight-desk', 'yard-planner']) {
    const client = new pg.Client({ connectionString: stack.database(system) });
    await client.connect();
    const { rows } = await client.query<{ type: string; id: string; doc: Record<string, unknown> }>(
      'SELECT type, id, doc FROM records',
    );
    await client.end();
    all.set(
      system,
      rows
        .map(({ type, id, doc: { firstTaskId, ...doc } }) => {
          const given = type === 'task' ? '' : id;
          return `${type} ${given} ${JSON.stringify(doc)}${firstTaskId === undefined ? '' : ' with its first task'}`;
        })
        .sort(),
    );
  }
  return all;
}

/** Returns which texts of one list the other has not, each as often as it is missing. */
function missing(of: readonly string[], from: readonly string[]): readonly string[] {
  const counts = new Map<string, number>();
  for (const each of of) counts.set(each, (counts.get(each) ?? 0) + 1);
  return from.filter((each) => {
    const count = counts.get(each) ?? 0;
    counts.set(each, count - 1);
    return count <= 0;
  });
}

/** Makes jobs that are to come into the yard. */
async function makeJobs(systems: Systems, count: number): Promise<readonly string[]> {
  const jobs: string[] = [];
  for (let at = 0; at < count; at++) {
    const { id } = await systems.insist<{ id: string }>('yard-planner', 'POST', '/yard/jobs', {
      title: `Fault job ${at}`,
      state: 'planned',
      owner: `Owner ${at}`,
    });
    jobs.push(id);
  }
  return jobs;
}

/** Signs in to the product's own API. */
async function signedIn({ url, user, password }: Stack): Promise<(path: string) => Promise<unknown>> {
  const response = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: user, password }),
  });
  const cookie = response.headers.get('set-cookie')?.split(';')[0] ?? '';
  await response.arrayBuffer();
  return async (path) => {
    const answer = await fetch(`${url}/api${path}`, {
      headers: { cookie },
      signal: AbortSignal.timeout(10_000),
    });
    if (!answer.ok) throw new Error(`${path}: ${answer.status}`);
    return answer.json();
  };
}

/** Waits until nothing waits any more, and nothing has changed for a while. */
async function untilQuiet(stack: Stack, mostMs: number): Promise<void> {
  const end = Date.now() + mostMs;
  let quietSince: number | undefined;
  let last = '';
  while (Date.now() < end) {
    try {
      const ask = await signedIn(stack);
      for (;;) {
        const { runs } = (await ask('/runs?own=shown')) as { runs: readonly { id: string }[] };
        const { runs: waiting } = (await ask('/runs?state=waiting')) as {
          runs: readonly { id: string; because: string }[];
        };
        const state = `${runs[0]?.id ?? ''} ${waiting.length}`;
        if (waiting.length > 0 || state !== last) quietSince = undefined;
        last = state;
        quietSince ??= Date.now();
        if (waiting.length === 0 && Date.now() - quietSince > 4000) return;
        if (Date.now() > end)
          throw new Error(`${waiting.length} still wait, the first because: ${waiting[0]?.because ?? ''}`);
        await pause(300);
      }
    } catch (thrown) {
      if (Date.now() > end) throw thrown;
      await pause(500);
    }
  }
  throw new Error('it did not become quiet');
}

/** Makes the changes of a plan, one after the other for each record, and waits until everything is dealt with. */
async function makeChanges(
  stack: Stack,
  plan: FaultPlan,
  trouble: (systems: Systems, done: () => boolean) => Promise<readonly Outage[]>,
): Promise<{
  readonly records: ReadonlyMap<string, readonly string[]>;
  readonly outages: readonly Outage[];
}> {
  const systems = new Systems(stack);
  const jobs = await makeJobs(systems, Math.ceil(plan.changes * 0.3));
  let done = false;
  const troubles = trouble(systems, () => done);
  for (const { system, path, set } of changesOf(plan, jobs)) {
    await systems.insist(system, 'PATCH', path, set);
    await pause(plan.everyMs);
  }
  done = true;
  const outages = await troubles;
  await untilQuiet(stack, 180_000);
  return { records: await recordsOf(stack), outages };
}

/** Lets everything go wrong that the plan says, and compares what is there at the end with a run in which nothing went wrong. */
export async function runFaults(
  open: (name: string) => Promise<Stack>,
  plan: FaultPlan,
  say: (line: string) => void,
): Promise<FaultReport> {
  const calm = await open('calm');
  const wanted = await makeChanges(calm, plan, () => Promise.resolve([])).finally(() => calm.stop());
  say('The run without faults is done.');
  const stack = await open('faults');
  try {
    let kills = 0;
    const got = await makeChanges(stack, plan, async (systems, done) => {
      const events = shuffled(plan);
      const outages: Outage[] = [];
      for (let at = 0; at < events.length || !done(); at++) {
        const event = events[at];
        if (event) {
          say(event);
          kills += event.startsWith('kill') ? 1 : 0;
          if (event === 'kill postgres') outages.push(await endDatabase(stack));
          else await happen(event, stack, systems);
        }
        await pause(event ? 400 : 200);
      }
      return outages;
    });
    const lists = [...wanted.records].map(([list, records]) => ({
      list,
      records,
      other: got.records.get(list) ?? [],
    }));
    const tell = (list: string) => (record: string) => `${list}: ${record}`;
    const absent = lists.flatMap(({ list, records, other }) => missing(other, records).map(tell(list)));
    const extra = lists.flatMap(({ list, records, other }) => missing(records, other).map(tell(list)));
    const known = new Set([...wanted.records].flatMap(([list, records]) => records.map(tell(list))));
    const more = lists.reduce(
      (sum, { records, other }) => sum + Math.max(0, records.length - other.length),
      0,
    );
    return {
      // A record that is there and holds something else is in both lists.
      lost: absent.slice(0, more),
      doubled: extra.filter((each) => known.has(each)),
      wrong: extra.filter((each) => !known.has(each)),
      outages: got.outages,
      changes: plan.changes,
      kills,
    };
  } finally {
    await stack.stop();
  }
}

/** Returns what happens, in an order that the seed gives. */
function shuffled({ seed, kills, dials }: FaultPlan): readonly string[] {
  const random = seeded(seed + 1);
  const misbehaviours = ['hang', 'errors', 'limit', 'outage', 'disorder'];
  const all = [
    ...Array<string>(kills.server).fill('kill server'),
    ...Array<string>(kills.worker).fill('kill worker'),
    ...Array<string>(kills.postgres).fill('kill postgres'),
    ...Array.from({ length: dials }, (_none, at) => misbehaviours[at % misbehaviours.length] ?? ''),
  ];
  return all
    .map((event) => ({ event, at: random() }))
    .sort((a, b) => a.at - b.at)
    .map(({ event }) => event);
}

const calmDials = { latencyMs: 0, errorRate: 0, requestsPerSecond: null, outage: false, disorder: 0 };

/** Lets one thing go wrong, and mends it. */
async function happen(event: string, stack: Stack, systems: Systems): Promise<void> {
  const turned = async (system: Application, dials: object, ms: number) => {
    await systems.dial(system, dials);
    await pause(ms);
    await systems.dial(system, calmDials);
  };
  switch (event) {
    case 'kill server':
      stack.server?.kill('SIGKILL');
      return;
    case 'kill worker':
      (stack.workers[0] ?? stack.server)?.kill('SIGKILL');
      return;
    case 'hang':
      return turned('freight-desk', { latencyMs: 8000 }, 3000);
    case 'errors':
      return turned('freight-desk', { errorRate: 0.5 }, 1500);
    case 'limit':
      return turned('freight-desk', { requestsPerSecond: 3 }, 2000);
    case 'outage':
      return turned('freight-desk', { outage: true }, 1500);
    case 'disorder':
      return turned('customer-book', { disorder: 0.5 }, 2000);
  }
}

/** Ends the database without warning, and waits until it answers again and a change is dealt with. */
async function endDatabase(stack: Stack): Promise<Outage> {
  const earlier = await databaseStarted(stack);
  const ended = Date.now();
  stack.postgres.kill('SIGKILL');
  for (;;) {
    const started = await databaseStarted(stack);
    if (started !== undefined && started !== earlier) break;
    await pause(50);
  }
  const back = Date.now();
  return { awayMs: back - ended, goesOnMs: await nextWrite(stack, back) };
}

/** Returns when the database server was started that answers now; undefined where none does. */
async function databaseStarted(stack: Stack): Promise<string | undefined> {
  const client = new pg.Client({
    connectionString: stack.database('vast_knot'),
    connectionTimeoutMillis: 2000,
  });
  // It may end while it is asked.
  client.on('error', () => undefined);
  try {
    await client.connect();
    const { rows } = await client.query<{ started: string }>(
      'SELECT pg_postmaster_start_time()::text AS started',
    );
    return rows[0]?.started;
  } catch {
    return undefined;
  } finally {
    await client.end().catch(() => undefined);
  }
}

/** Returns how long it takes from a moment until a change is dealt with; Infinity after a minute. */
async function nextWrite({ url }: Stack, from: number): Promise<number> {
  for (;;) {
    try {
      const answer = await fetch(`${url}/health/ready`, { signal: AbortSignal.timeout(2000) });
      const { finished } = (await answer.json()) as { finished?: string | null };
      if (answer.ok && finished && Date.parse(finished) > from) return Date.parse(finished) - from;
    } catch {
      // It is still away.
    }
    if (Date.now() - from > 60_000) return Infinity;
    await pause(100);
  }
}
