import { inTransaction, type Client, type Pool } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import { readJobs } from '../jobs/repository';
import { lockArrival, readArrival, type KeptArrival } from './repository';

/**
 * Does something to a file of which nothing else is under way, in one transaction: of two who ask at a time the second waits, and is then told. Throws a 404
 * where the file is gone, and a 409 where it is being looked at or applied.
 */
export async function alone<T>(
  pool: Pool,
  id: string,
  work: (client: Client, arrival: KeptArrival) => Promise<T>,
): Promise<T> {
  return inTransaction(pool, async (client) => {
    await lockArrival(client, id);
    const arrival = await readArrival(client, id);
    if (!arrival) throw notFound('such file');
    const { look, applying } = arrival;
    const jobs = await readJobs(client, [look ?? [], applying ?? []].flat());
    for (const [job, what] of [
      [look, 'The file is being looked at'],
      [applying, 'The file is being applied'],
    ] as const) {
      const state = job === null ? undefined : jobs.get(job)?.state;
      if (state === 'waiting' || state === 'at work' || state === 'paused')
        throw new HttpProblem(409, 'At work', `${what}. Wait for it, or stop it.`);
    }
    return work(client, arrival);
  });
}
