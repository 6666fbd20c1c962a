import Joi from 'joi';
import { HttpProblem, parsed } from '../http/problem';
import { listRules } from '../rules/repository';
import { failureGroups, putAside, retryCause, takeUpAgain } from '../runs/failures';
import { get, personOf, post, type Handle, type Route } from './route';

const cause = Joi.string().allow('').max(10_000).required();
const causeBody = Joi.object<{ cause: string }>({ cause });
const asideBody = Joi.object<{ cause: string; note: string }>({
  cause,
  note: Joi.string().trim().min(1).max(1000).required(),
});

const list: Handle<'/failures'> = async (_request, response, { pool }) => {
  const names = new Map((await listRules(pool)).map(({ id, draft }) => [id, draft.name]));
  response.json(await failureGroups(pool, (id) => names.get(id)));
};

const retry: Handle<'/failures/retry'> = async (request, response, { pool }) => {
  const asked = parsed(causeBody, request.body);
  const count = await retryCause(pool, asked.cause);
  if (count === 0)
    throw new HttpProblem(409, 'Nothing to try again', 'No run that failed so can be tried again.');
  response.status(202).json({ count });
};

const aside: Handle<'/failures/aside'> = async (request, response, { pool }) => {
  const asked = parsed(asideBody, request.body);
  await putAside(pool, asked.cause, asked.note, personOf(request));
  response.status(204).end();
};

const up: Handle<'/failures/take-up'> = async (request, response, { pool }) => {
  const asked = parsed(causeBody, request.body);
  if (!(await takeUpAgain(pool, asked.cause)))
    throw new HttpProblem(409, 'Not put aside', 'This cause is not put aside any more.');
  response.status(204).end();
};

/** Runs that failed, by like cause: tried again together, or put aside with a note. */
export const failureRoutes: readonly Route[] = [
  get('/failures', 'runs.read', list),
  post('/failures/retry', 'runs.retry', retry, { body: causeBody }),
  post('/failures/aside', 'runs.retry', aside, { body: asideBody }),
  post('/failures/take-up', 'runs.retry', up, { body: causeBody }),
];
