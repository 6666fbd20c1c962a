import { Router } from 'express';
import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import { ensemble, HistoryComparison, type HistoryView, type Rule, type RuleBody } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { compareHistory } from '../history/compareHistory';

interface Job {
  readonly id: string;
  readonly wanted: number;
  readonly comparison: HistoryComparison;
  readonly mistakes: readonly string[];
  state: HistoryView['state'];
  problem: string | null;
}

/** Comparisons that are kept to be looked at; the oldest ones go. */
const keptJobs = 10;
const asking = Joi.object<{ events: number }>({
  events: Joi.number().integer().min(1).max(50_000).required(),
});

/** Events of the past through the rules as published and as edited: started, looked at while it goes on, and stopped. */
export function historyRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  const jobs = new Map<string, Job>();

  router.post('/', async (request, response) => {
    const { events } = parsed(asking, request.body);
    if ([...jobs.values()].some(({ state }) => state === 'at work'))
      throw new HttpProblem(409, 'At work', 'Another comparison is at work. Stop it, or wait for it.');
    const { catalog, tables } = await registry.get();
    const { rows } = await pool.query<{
      id: string;
      draft: RuleBody;
      published: RuleBody | null;
      version: number;
    }>(
      `SELECT rules.id, draft, body AS published, coalesce(version, 0) AS version
       FROM rules LEFT JOIN rule_versions ON rule_id = rules.id AND version = published ORDER BY position, rules.id`,
    );
    const surroundings = { catalog, tables, compiled: new Map() };
    const drafts = rows.map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
    const published = rows.flatMap((row): Rule[] =>
      row.published ? [{ ...row.published, id: row.id, version: row.version }] : [],
    );
    const then = ensemble(drafts, surroundings);
    const job: Job = {
      id: uuid(),
      wanted: events,
      comparison: new HistoryComparison(ensemble(published, surroundings), then, surroundings),
      mistakes: then.mistakes.map(({ rule }) => rule),
      state: 'at work',
      problem: null,
    };
    jobs.set(job.id, job);
    for (const old of [...jobs.keys()].slice(0, Math.max(0, jobs.size - keptJobs))) jobs.delete(old);
    compareHistory(pool, job.comparison, events, () => job.state === 'stopped')
      .then(() => {
        if (job.state === 'at work') job.state = 'done';
      })
      .catch((thrown: unknown) => {
        job.state = 'failed';
        job.problem = thrown instanceof Error ? thrown.message : String(thrown);
      });
    response.status(202).json({ id: job.id });
  });

  router.get('/:id', (request, response) => {
    response.json(viewOf(found(jobs, request.params.id)));
  });

  router.delete('/:id', (request, response) => {
    const job = found(jobs, request.params.id);
    if (job.state === 'at work') job.state = 'stopped';
    response.json(viewOf(job));
  });
  return router;
}

function found(jobs: ReadonlyMap<string, Job>, id: string): Job {
  const job = jobs.get(id);
  if (!job) throw notFound('such comparison; it may have been made before the server was started');
  return job;
}

function viewOf({ id, wanted, comparison, state, problem, mistakes }: Job): HistoryView {
  return { id, wanted, ...comparison.summary(), state, problem, mistakes };
}
