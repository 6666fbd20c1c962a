import type { Runner } from '../db/pool';

/** Tries of a job that connects a system: it ends only when the system takes it, with pauses that the job itself chooses. */
const always = 30_000;

/**
 * Asks for a system to be connected: to be told where its events go, and to be asked what changed meanwhile; `whole` where all of its
 * records are to be compared, so that those that are gone are found as well. One job at a time.
 */
export async function queueConnecting(
  runner: Runner,
  system: string,
  { runAt, whole = false }: { readonly runAt?: Date; readonly whole?: boolean } = {},
): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('connect_system', json_build_object('system', $1::text, 'whole', $3::boolean),
       queue_name := 'connect-' || $1, run_at := coalesce($2::timestamptz, now()), job_key := 'connect/' || $1,
       job_key_mode := 'replace', max_attempts := ${always})`,
    [system, runAt ?? null, whole],
  );
}

/** Asks for the changes of a system to be looked for, now or later, in those of its record types that are asked for or compared. */
export async function queueListening(runner: Runner, system: string, runAt?: Date): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('listen_system', json_build_object('system', $1::text), queue_name := 'connect-' || $1,
       run_at := coalesce($2::timestamptz, now()), job_key := 'listen/' || $1, job_key_mode := 'replace', max_attempts := ${always})`,
    [system, runAt ?? null],
  );
}
