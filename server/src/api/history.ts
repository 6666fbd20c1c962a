import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import { askForHistory, historyKind, historyView } from '../history/compareHistory';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { askToCancel, beginJob, isAtWork, readJob } from '../jobs/repository';
import { uuidOf } from './params';
import { get, personOf, post, remove, type AppParts, type Handle, type Route } from './route';

const body = Joi.object<{ events: number }>({
  events: Joi.number().integer().min(1).max(50_000).required(),
});

const start: Handle<'/history'> = async (request, response, { pool }) => {
  const { events } = parsed(body, request.body);
  const { kind } = historyKind;
  if (await isAtWork(pool, kind))
    throw new HttpProblem(409, 'At work', 'Another comparison is at work. Stop it, or wait for it.');
  const id = uuid();
  await beginJob(pool, { id, kind, asked: await askForHistory(pool, events), by: personOf(request) });
  response.status(202).json({ id });
};

const view = async (id: string, { pool }: AppParts) => {
  const job = await readJob(pool, uuidOf(id, 'comparison'));
  if (job?.kind !== historyKind.kind) throw notFound('such comparison');
  return historyView(job);
};

const look: Handle<'/history/:id'> = async (request, response, parts) => {
  response.json(await view(request.params.id, parts));
};

const stop: Handle<'/history/:id'> = async (request, response, parts) => {
  await view(request.params.id, parts);
  await askToCancel(parts.pool, request.params.id);
  response.json(await view(request.params.id, parts));
};

/** Events of the past through the rules as published and as edited. */
export const historyRoutes: readonly Route[] = [
  post('/history', 'jobs.steer', start),
  get('/history/:id', 'jobs.read', look),
  remove('/history/:id', 'jobs.steer', stop),
];
