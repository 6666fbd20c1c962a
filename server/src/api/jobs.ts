import { HttpProblem, notFound } from '../http/problem';
import { askToCancel, askToPause, goOn, listJobs, readJob } from '../jobs/repository';
import { uuidOf } from './params';
import { get, post, type AppParts, type Handle, type HandleOf, type Route } from './route';

/** Jobs that are listed. */
const mostListed = 100;

const list: Handle<'/jobs'> = async (_request, response, { pool }) => {
  response.json(await listJobs(pool, mostListed));
};

const view = async (id: string, { pool }: AppParts) => {
  const job = await readJob(pool, uuidOf(id, 'job'));
  if (!job) throw notFound('such job');
  const { asked: _asked, memory: _memory, ...shown } = job;
  return shown;
};

const read: Handle<'/jobs/:id'> = async (request, response, parts) => {
  response.json(await view(request.params.id, parts));
};

/** Asks something of a job. Throws a 409 with the sentence when it cannot be asked now. */
const asking =
  (ask: typeof goOn, title: string, because: string): HandleOf<{ id: string }> =>
  async (request, response, parts) => {
    const { id } = await view(request.params.id, parts);
    if (!(await ask(parts.pool, id))) throw new HttpProblem(409, title, because);
    response.status(202).json(await view(id, parts));
  };

const pause = asking(askToPause, 'Not at work', 'Only a job that is at work or waits can be paused.');
const resume = asking(goOn, 'Not paused', 'Only a job that is paused can go on.');
const cancel = asking(askToCancel, 'Ended', 'The job has ended already.');

/** Long work: how far it has come, and holding it up. */
export const jobRoutes: readonly Route[] = [
  get('/jobs', 'jobs.read', list),
  get('/jobs/:id', 'jobs.read', read),
  post('/jobs/:id/pause', 'jobs.steer', pause),
  post('/jobs/:id/resume', 'jobs.steer', resume),
  post('/jobs/:id/cancel', 'jobs.steer', cancel),
];
