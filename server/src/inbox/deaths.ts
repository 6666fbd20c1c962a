import type { Runner } from '../db/pool';

/** Ends of a thread after which an event is no longer computed. */
export const mostDeaths = 2;

/** Notes that a thread ended while it computed these events. */
export async function noteDeaths(runner: Runner, events: readonly string[]): Promise<void> {
  await runner.query(
    `INSERT INTO computation_deaths (event_id, deaths) SELECT unnest($1::bigint[]), 1
     ON CONFLICT (event_id) DO UPDATE SET deaths = computation_deaths.deaths + 1`,
    [events],
  );
}

/** Forgets the ends that an event caused: it was computed, or is parked and may be tried anew. */
export async function forgetDeaths(runner: Runner, event: string): Promise<void> {
  await runner.query('DELETE FROM computation_deaths WHERE event_id = $1', [event]);
}
