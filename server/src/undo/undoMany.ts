import { setTimeout } from 'node:timers/promises';
import type { Json } from '@vast-knot/core';
import type { Pool, Runner } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeAll } from '../intake/takeAll';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { readReconcile } from '../reconcile/repository';

/** What is taken back by a job: all that a reconcile wrote, or all that a rule wrote since a time. */
export type ManyRuns =
  { readonly reconcile: string } | { readonly rule: string; readonly since: string; readonly until: string };

export type UndoManyAsked = ManyRuns & {
  readonly job: string;
  readonly because: string;
  readonly by: string;
  /** What goes back starts rules. */
  readonly starts?: true;
};

/** Runs that are taken back in one step. */
const atOnce = 100;
/** So long it waits for runs that are under way. */
const waitMs = 50;

/** Where events that take something back come from. */
export const undoSource = '/vast-knot/taking-back';

/** The runs that are taken back, the last first: each before those that it followed. */
function runsOf(asked: ManyRuns): { readonly from: string; readonly values: readonly unknown[] } {
  return 'reconcile' in asked
    ? {
        from: `SELECT DISTINCT run_id AS id FROM reconcile_records JOIN runs ON runs.id = run_id
          WHERE reconcile = $1 AND runs.result IN ('wrote', 'partly failed')`,
        values: [asked.reconcile],
      }
    : {
        from: `SELECT runs.id FROM runs JOIN inbox USING (id) WHERE rules_fired @> ARRAY[$1] AND received_at >= $2 AND received_at < $3
          AND runs.result IN ('wrote', 'partly failed')`,
        values: [asked.rule, asked.since, asked.until],
      };
}

/** Returns how many runs would be taken back. */
export async function countRuns(runner: Runner, asked: ManyRuns): Promise<number> {
  const { from, values } = runsOf(asked);
  const { rows } = await runner.query<{ count: number }>(
    `SELECT count(*)::float8 AS count FROM (${from}) AS wanted`,
    [...values],
  );
  return rows[0]?.count ?? 0;
}

/** Runs that are looked at before they are taken back, and writes after which no further run is. */
const mostPreviewed = { runs: 2000, writes: 20_000 };

/** Returns the last of the runs that would be taken back: as many as a person waits for. */
export async function runsToPreview(runner: Runner, asked: ManyRuns): Promise<readonly string[]> {
  const { from, values } = runsOf(asked);
  const { rows } = await runner.query<{ id: string }>(
    `SELECT id FROM (
       SELECT id, sum(wrote) OVER (ORDER BY id DESC) - wrote AS later FROM (
         SELECT id, (SELECT count(*) FROM writes WHERE run_id = wanted.id AND state = 'written') AS wrote
         FROM (SELECT id FROM (${from}) AS of ORDER BY id DESC LIMIT ${mostPreviewed.runs}) AS wanted) AS counted) AS looked
     WHERE later < ${mostPreviewed.writes} ORDER BY id DESC`,
    [...values],
  );
  return rows.map(({ id }) => id);
}

interface Memory {
  /** The last run of which an event was made; they go backwards. */
  readonly before: string | null;
  readonly begun: number;
}

/** Takes back run after run, the last first, each as a run of its own. The id of each event comes from the job and the run, so that none is doubled. */
export const undoManyKind: JobKind = {
  kind: 'take back',

  async open(given, memory, { pool, registry }) {
    // What we kept ourselves has the shape in which we kept it.
    const asked = given as unknown as UndoManyAsked;
    if ('reconcile' in asked && !(await readReconcile(pool, asked.reconcile)))
      throw new JobEnds('What was reconciled is forgotten by now; take its runs back one by one.');
    const total = await countRuns(pool, asked);
    let { before, begun } = (memory as unknown as Memory | null) ?? { before: null, begun: 0 };
    return {
      async step() {
        const underWay = await countUnderWay(pool, asked.job);
        // What wrote to a record later goes back first: none of these may overtake another.
        const next = underWay > 0 ? [] : apart(await nextRuns(pool, asked, before));
        await takeAll(
          pool,
          await registry.get(),
          next.map((row) => eventFor(asked, row)),
        );
        before = next.at(-1)?.id ?? before;
        begun += next.length;
        const ended = next.length === 0 && underWay === 0;
        if (next.length === 0 && !ended) await setTimeout(waitMs);
        const kept: Memory = { before, begun };
        return { memory: kept as unknown as Json, done: begun - underWay - next.length, total, ended };
      },
    };
  },
};

interface RunRow {
  readonly id: string;
  readonly event: ReceivedEvent;
  /** The records that it wrote. */
  readonly wrote: readonly string[];
}

/** Returns the runs that come next, the last first. */
async function nextRuns(pool: Pool, asked: UndoManyAsked, before: string | null): Promise<readonly RunRow[]> {
  const { from, values } = runsOf(asked);
  const at = `$${values.length + 1}::bigint`;
  const { rows } = await pool.query<RunRow>(
    `SELECT runs.id, runs.event, ARRAY(SELECT DISTINCT concat(system, '/', record_type, '/', record_id) FROM writes
       WHERE run_id = runs.id AND state = 'written') AS wrote
     FROM runs WHERE id IN (${from}) AND (${at} IS NULL OR id < ${at}) ORDER BY id DESC LIMIT ${atOnce}`,
    [...values, before],
  );
  return rows;
}

/** Returns the first of the runs, as many as have no record in common. */
function apart(runs: readonly RunRow[]): readonly RunRow[] {
  const taken = new Set<string>();
  const end = runs.findIndex(({ wrote }) => {
    if (wrote.some((key) => taken.has(key))) return true;
    for (const key of wrote) taken.add(key);
    return false;
  });
  return end < 0 ? runs : runs.slice(0, end);
}

/** Returns the event that takes back what a run wrote. */
function eventFor(asked: UndoManyAsked, { id, event }: RunRow): ReceivedEvent {
  const { because, by } = asked;
  const rule = 'rule' in asked ? asked.rule : undefined;
  return undoEvent(`${asked.job}/${id}`, event, {
    run: id,
    because,
    by,
    ...(rule !== undefined && { rule }),
    ...(asked.starts && { starts: true as const }),
  });
}

/** Returns the event that takes back what the run of another event wrote. */
export function undoEvent(
  id: string,
  { kind, ref, record }: Pick<ReceivedEvent, 'kind' | 'ref' | 'record'>,
  undoes: NonNullable<ReceivedEvent['undoes']>,
): ReceivedEvent {
  const time = new Date().toISOString();
  return { id, source: undoSource, kind, ref, time, record, claimed: [], undoes };
}

async function countUnderWay(pool: Pool, job: string): Promise<number> {
  const { rows } = await pool.query<{ count: number }>(
    `SELECT count(*)::float8 AS count FROM inbox WHERE state = 'waiting' AND source = $1 AND event_id LIKE $2`,
    [undoSource, `${job}/%`],
  );
  return rows[0]?.count ?? 0;
}
