import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import type { UndoPreview } from '@vast-knot/core';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { beginJob } from '../jobs/repository';
import { accept } from '../inbox/inbox';
import { readReconcile } from '../reconcile/repository';
import { readEventOf } from '../runs/repository';
import { readRule } from '../rules/repository';
import { previewUndo } from '../undo/preview';
import {
  countRuns,
  runsToPreview,
  undoEvent,
  undoManyKind,
  type ManyRuns,
  type UndoManyAsked,
} from '../undo/undoMany';
import { instant, runId, uuidOf } from './params';
import { get, personOf, post, type AppParts, type Handle, type Route } from './route';

interface Asked {
  readonly id: string;
  readonly because: string;
  readonly only?: readonly string[];
  readonly without?: readonly string[];
  readonly starts?: true;
}

const sinceSchema = instant.required();
const reason = Joi.string().trim().min(1).max(1000).required();
const asked = Joi.object<Asked>({
  id: Joi.string().guid().required(),
  because: reason,
  only: Joi.array().items(Joi.string().max(700)).min(1).max(10_000),
  without: Joi.array().items(Joi.string().max(700)).max(10_000),
  starts: Joi.valid(true),
});

async function runOf(id: string, { pool }: AppParts) {
  const run = runId(id);
  const event = await readEventOf(pool, run);
  if (!event) throw notFound('such run with a payload');
  return { id: run, event };
}

const preview: Handle<'/runs/:id/undo'> = async (request, response, parts) => {
  const run = await runOf(request.params.id, parts);
  response.json(await previewUndo(parts.pool, await parts.registry.get(), { runs: [run.id] }));
};

const undo: Handle<'/runs/:id/undo'> = async (request, response, parts) => {
  const { id, because, only, without, starts } = parsed(asked, request.body);
  const run = await runOf(request.params.id, parts);
  const undoes = {
    run: run.id,
    because,
    by: personOf(request),
    ...(only && { only }),
    ...(without && { without }),
    ...(starts && { starts }),
  };
  const { changed: _changed, ...event } = run.event;
  const made = await accept(parts.pool, undoEvent(id, event, undoes));
  response.status(202).json({ run: made ?? null });
};

/** Begins a job that takes back many runs. Throws a 409 where there is none, or another such job is at work. */
async function begin(
  parts: AppParts,
  many: UndoManyAsked,
): Promise<{ readonly job: string; readonly count: number }> {
  const count = await countRuns(parts.pool, many);
  if (count === 0)
    throw new HttpProblem(409, 'Nothing to take back', 'No run wrote anything that could be taken back.');
  const { job, by } = many;
  const kind = undoManyKind.kind;
  if (!(await beginJob(parts.pool, { id: job, kind, asked: { ...many }, by, alone: true })))
    throw new HttpProblem(409, 'At work', 'Something else is being taken back. Wait for it, or stop it.');
  return { job, count };
}

const sinceQuery = Joi.object<{ since: string }>({ since: sinceSchema });
const undoReconcileBody = Joi.object<{ because: string; starts?: true }>({
  because: reason,
  starts: Joi.valid(true),
});
const undoRuleBody = Joi.object<{ because: string; since: string; starts?: true }>({
  because: reason,
  since: sinceSchema,
  starts: Joi.valid(true),
});

const previewReconcile: Handle<'/reconciles/:id/undo'> = async (request, response, parts) => {
  response.json(await previewMany(parts, { reconcile: (await lookOf(request.params.id, parts)).id }));
};

const previewRule: Handle<'/rules/:id/undo'> = async (request, response, parts) => {
  const { since } = parsed(sinceQuery, request.query);
  const { id: rule } = await ruleOf(request.params.id, parts);
  response.json(await previewMany(parts, { rule, since, until: new Date().toISOString() }));
};

async function previewMany({ pool, registry }: AppParts, many: ManyRuns): Promise<UndoPreview> {
  const [runs, ofRuns] = await Promise.all([runsToPreview(pool, many), countRuns(pool, many)]);
  const asked = { runs, ...('rule' in many && { rule: many.rule }) };
  return previewUndo(pool, await registry.get(), asked, ofRuns);
}

async function lookOf(id: string, { pool }: AppParts) {
  const look = await readReconcile(pool, uuidOf(id, 'look'));
  if (!look) throw notFound('such look at what exists');
  return look;
}

async function ruleOf(id: string, { pool }: AppParts) {
  const rule = await readRule(pool, uuidOf(id, 'rule'));
  if (!rule) throw notFound('such rule');
  return rule;
}

const undoReconcile: Handle<'/reconciles/:id/undo'> = async (request, response, parts) => {
  const asked = parsed(undoReconcileBody, request.body);
  const { id: reconcile } = await lookOf(request.params.id, parts);
  response.status(202).json(await begin(parts, { ...asked, job: uuid(), by: personOf(request), reconcile }));
};

const undoRule: Handle<'/rules/:id/undo'> = async (request, response, parts) => {
  const asked = parsed(undoRuleBody, request.body);
  const { id: rule } = await ruleOf(request.params.id, parts);
  const until = new Date().toISOString();
  const many = { ...asked, job: uuid(), by: personOf(request), rule, until };
  response.status(202).json(await begin(parts, many));
};

/** Taking back what was written: what it would do, and doing it. */
export const undoRoutes: readonly Route[] = [
  get('/runs/:id/undo', 'runs.read', preview),
  post('/runs/:id/undo', 'runs.undo', undo, { body: asked }),
  get('/reconciles/:id/undo', 'runs.read', previewReconcile),
  post('/reconciles/:id/undo', 'runs.undo', undoReconcile, { body: undoReconcileBody }),
  get('/rules/:id/undo', 'runs.read', previewRule, { query: sinceQuery }),
  post('/rules/:id/undo', 'runs.undo', undoRule, { body: undoRuleBody }),
];
