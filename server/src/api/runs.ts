import { Router } from 'express';
import Joi from 'joi';
import type {
  ChangeEvent,
  Report,
  RunDetail,
  RunPage,
  RunSummary,
  WriteState,
  WriteView,
  PlannedWrite,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { queueRecord } from '../inbox/inbox';
import type { RegistryCache } from '../registry/registry';
import { runAgain } from '../runs/runAgain';
import { verifyRun } from '../runs/verifyRun';

const pageSize = 100;

const listQuery = Joi.object<{
  before?: string;
  state?: string;
  result?: string;
  system?: string;
  rule?: string;
  own?: 'shown' | 'hidden';
  search?: string;
}>({
  before: Joi.string().pattern(/^\d{1,18}$/),
  state: Joi.valid('waiting', 'done', 'failed', 'malformed', 'refused'),
  result: Joi.valid('wrote', 'nothing', 'own write', 'partly failed', 'failed'),
  system: Joi.string().max(80),
  rule: Joi.string().guid(),
  own: Joi.valid('shown', 'hidden'),
  search: Joi.string().allow('').max(200),
});

const summary = `
  inbox.id, inbox.system, inbox.kind, inbox.state, inbox.attempts,
  CASE WHEN record_id IS NULL THEN NULL ELSE json_build_object('system', inbox.system, 'recordType', record_type, 'id', record_id) END AS ref,
  coalesce(runs.event, inbox.event)->'record' AS record,
  coalesce(runs.event->'changed', '[]') AS changed,
  runs.result,
  coalesce(nullif(runs.because, ''), inbox.because, '') AS because,
  coalesce(runs.rules_fired, '{}') AS rules,
  (SELECT count(*)::integer FROM writes WHERE run_id = inbox.id AND writes.state = 'written') AS writes,
  received_at AS "receivedAt", finished_at AS "finishedAt",
  CASE WHEN inbox.state = 'waiting' AND attempts > 0 THEN next_at END AS "nextAt"`;

type SummaryRow = Omit<RunSummary, 'recordName'> & { readonly record: Record<string, unknown> | null };

/** Runs: everything that came in, what it did, and why. */
export function runRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  router.param('id', (_request, _response, next, id: string) => {
    next(/^\d{1,18}$/.test(id) ? undefined : notFound('such run'));
  });

  /** The record's name, as its type says which field that is. */
  const named = async <T extends SummaryRow>(rows: readonly T[]) => {
    const { catalog } = await registry.get();
    return rows.map(({ record, ...row }) => {
      const type = row.ref && catalog.recordType(row.ref.system, row.ref.recordType);
      const name = type ? record?.[type.nameField] : undefined;
      return { ...row, recordName: typeof name === 'string' ? name : null };
    });
  };

  router.get('/', async (request, response) => {
    const query = parsed(listQuery, request.query);
    const params: unknown[] = [];
    const conditions: string[] = ['true'];
    const where = (condition: (placeholder: string) => string, value: string | undefined) => {
      if (value === undefined || value === '') return;
      params.push(value);
      conditions.push(condition(`$${params.length}`));
    };
    if (query.own === 'hidden') conditions.push(`runs.result IS DISTINCT FROM 'own write'`);
    where((p) => `inbox.id < ${p}::bigint`, query.before);
    where((p) => `inbox.state = ${p}`, query.state);
    where((p) => `runs.result = ${p}`, query.result);
    where((p) => `inbox.system = ${p}`, query.system);
    where((p) => `${p} = ANY (runs.rules_fired)`, query.rule);
    where(
      (
        p,
      ) => `(record_id ILIKE '%' || ${p} || '%' OR coalesce(runs.because, inbox.because, '') ILIKE '%' || ${p} || '%'
        OR inbox.event->>'record' ILIKE '%' || ${p} || '%')`,
      query.search,
    );
    const { rows } = await pool.query<SummaryRow>(
      `SELECT ${summary} FROM inbox LEFT JOIN runs USING (id) WHERE ${conditions.join(' AND ')}
       ORDER BY inbox.id DESC LIMIT ${pageSize + 1}`,
      params,
    );
    const runs = await named(rows.slice(0, pageSize));
    response.json({
      runs,
      next: rows.length > pageSize ? (runs.at(-1)?.id ?? null) : null,
    } satisfies RunPage);
  });

  router.get('/:id', async (request, response) => {
    const { rows } = await pool.query<
      SummaryRow & {
        eventId: string | null;
        source: string | null;
        event: ChangeEvent | null;
        report: Report | null;
        body: string | null;
      }
    >(
      `SELECT ${summary}, event_id AS "eventId", source, coalesce(runs.event, inbox.event || '{"changed": []}') AS event, report, body
       FROM inbox LEFT JOIN runs USING (id) WHERE inbox.id = $1`,
      [request.params.id],
    );
    const [run] = await named(rows);
    if (!run) throw notFound('such run');
    const progress = run.state === 'waiting' ? await readProgress(pool, run.id) : null;
    response.json({ ...run, outcome: await readOutcome(pool, run.id), progress } satisfies RunDetail);
  });

  router.get('/:id/verify', async (request, response) => {
    response.json(await verifyRun(pool, await registry.get(), request.params.id));
  });

  router.post('/:id/retry', async (request, response) => {
    const { id } = request.params;
    await inTransaction(pool, async (client) => {
      const { rows } = await client.query<{ system: string; recordType: string; recordId: string }>(
        `UPDATE inbox SET state = 'waiting', attempts = 0, next_at = now()
         WHERE id = $1 AND (state = 'failed' OR (state = 'waiting' AND attempts > 0))
         RETURNING system, record_type AS "recordType", record_id AS "recordId"`,
        [id],
      );
      const [row] = rows;
      if (!row)
        throw new HttpProblem(
          409,
          'Nothing to try again',
          'Only a run that failed or waits can be tried again.',
        );
      // A plan that failed for good is computed anew; what it has written stays and is then found the same.
      await client.query(`UPDATE writes SET state = 'conflict' WHERE run_id = $1 AND state = 'refused'`, [
        id,
      ]);
      await client.query(
        `UPDATE runs SET state = 'waiting', result = NULL, stopped_by = NULL, report = CASE WHEN EXISTS (
           SELECT 1 FROM writes WHERE run_id = $1 AND writes.state IN ('planned', 'failed')) THEN report END
         WHERE id = $1`,
        [id],
      );
      await queueRecord(
        client,
        { system: row.system, recordType: row.recordType, id: row.recordId },
        new Date(),
      );
      await tell(client, { kind: 'run', id, state: 'waiting', result: null });
    });
    response.status(202).json({});
  });

  router.post('/:id/again', async (request, response) => {
    const { id } = request.params;
    const runs = await runAgain(pool, await registry.get(), id, request.session.user?.name ?? '');
    if (!runs) throw notFound('such run with a payload');
    if (runs.length === 0)
      throw new HttpProblem(
        409,
        'Nothing to run',
        'None of the rules that this payload started is published.',
      );
    response.status(202).json({ runs });
  });

  router.post('/:id/stop', async (request, response) => {
    const { id } = request.params;
    const { rows } = await pool.query<{ system: string; recordType: string; recordId: string }>(
      `WITH open AS (
         UPDATE inbox SET next_at = now() WHERE id = $1 AND state = 'waiting' RETURNING id, system, record_type, record_id
       )
       UPDATE runs SET stopped_by = $2 FROM open WHERE runs.id = open.id
       RETURNING system, record_type AS "recordType", record_id AS "recordId"`,
      [id, request.session.user?.name ?? ''],
    );
    const [row] = rows;
    if (!row)
      throw new HttpProblem(409, 'Nothing to stop', 'Only a run that is at work or waits can be stopped.');
    const { system, recordType, recordId } = row;
    // One that waits for its next try ends at once; one at work ends after the writes that are on their way.
    await queueRecord(pool, { system, recordType, id: recordId }, new Date());
    response.status(202).json({});
  });
  return router;
}

/** How many of the records that a run writes are written; null before it is known. */
async function readProgress(pool: Pool, runId: string): Promise<RunDetail['progress']> {
  const { rows } = await pool.query<{ written: number; planned: number }>(
    `SELECT count(*) FILTER (WHERE state = 'written')::integer AS written, count(*)::integer AS planned
     FROM writes WHERE run_id = $1 AND state NOT IN ('skipped', 'conflict')`,
    [runId],
  );
  const [row] = rows;
  return row && row.planned > 0 ? row : null;
}

/** The writes of a run, one per record: the latest that is known of each. */
async function readOutcome(pool: Pool, runId: string): Promise<readonly WriteView[]> {
  const { rows } = await pool.query<{
    planned: PlannedWrite;
    recordId: string;
    plan: number;
    state: WriteState;
    problem: string | null;
  }>(
    `SELECT planned, record_id AS "recordId", plan, problem,
       CASE WHEN EXISTS (SELECT 1 FROM flights WHERE (run_id, plan, seq) = (latest.run_id, latest.plan, latest.seq))
         THEN 'sending' ELSE state END AS state
     FROM writes AS latest JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = $1 AND NOT EXISTS (
       SELECT 1 FROM writes AS later
       WHERE later.run_id = $1 AND later.plan > latest.plan AND later.system = latest.system
         AND later.record_type = latest.record_type AND later.record_id = latest.record_id AND latest.state <> 'written')
     ORDER BY plan, seq LIMIT 2000`,
    [runId],
  );
  return rows.map(({ planned, recordId, plan, state, problem }): WriteView => {
    const { ref, edits, creates, removes, before, rules, depth } = planned;
    return {
      ref: { ...ref, id: recordId },
      ...(creates && { creates }),
      ...(removes && { removes }),
      edits,
      before: before as WriteView['before'],
      rules,
      depth,
      plan,
      state,
      problem,
    };
  });
}
