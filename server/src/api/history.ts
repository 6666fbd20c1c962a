import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import { askForHistory, historyKind, historyView } from '../history/compareHistory';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { beginJob, readJob } from '../jobs/repository';
import { uuidOf } from './params';
import { get, personOf, post, type Handle, type Route } from './route';

const body = Joi.object<{ events: number }>({
  events: Joi.number().integer().min(1).max(50_000).required(),
});

const start: Handle<'/history'> = async (request, response, { pool }) => {
  const { events } = parsed(body, request.body);
  const { kind } = historyKind;
  const id = uuid();
  const asked = await askForHistory(pool, events);
  if (!(await beginJob(pool, { id, kind, asked, by: personOf(request), alone: true })))
    throw new HttpProblem(409, 'At work', 'Another comparison is at work. Stop it, or wait for it.');
  response.status(202).json({ id });
};

const look: Handle<'/history/:id'> = async (request, response, { pool }) => {
  const job = await readJob(pool, uuidOf(request.params.id, 'comparison'));
  if (job?.kind !== historyKind.kind) throw notFound('such comparison');
  response.json(historyView(job));
};

/** Events of the past through the rules as published and as edited; held up as any job is. */
export const historyRoutes: readonly Route[] = [
  post('/history', 'jobs.steer', start, { body }),
  get('/history/:id', 'jobs.read', look),
];
