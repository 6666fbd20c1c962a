import type { SystemHealth, SystemStanding } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** How a system stands, as one process found out. */
export interface FoundStanding {
  readonly standing: SystemStanding;
  readonly since: Date;
  readonly because: string;
  readonly nextTry: Date | null;
  readonly milliseconds: number | null;
  readonly answeredAt: Date | null;
}

/** Keeps how a system stands; what is kept of it otherwise stays. Returns how it stood before, whichever process found that out. */
export async function keepStanding(
  runner: Runner,
  system: string,
  found: FoundStanding,
): Promise<SystemStanding | undefined> {
  const before = await runner.query<{ standing: SystemStanding }>(
    'SELECT standing FROM system_states WHERE system = $1 FOR UPDATE',
    [system],
  );
  await runner.query(
    `INSERT INTO system_states (system, standing, since, because, next_try, milliseconds, answered_at)
     SELECT key, $2, $3, $4, $5, $6, $7 FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system) DO UPDATE SET standing = EXCLUDED.standing, because = EXCLUDED.because, next_try = EXCLUDED.next_try,
       since = CASE WHEN system_states.standing = EXCLUDED.standing AND system_states.since IS NOT NULL
         THEN system_states.since ELSE EXCLUDED.since END,
       milliseconds = coalesce(EXCLUDED.milliseconds, system_states.milliseconds),
       answered_at = coalesce(EXCLUDED.answered_at, system_states.answered_at)`,
    [system, found.standing, found.since, found.because, found.nextTry, found.milliseconds, found.answeredAt],
  );
  return before.rows[0]?.standing;
}

/** Notes that a system was asked to send its events to us; `problem` is why it does not. */
export async function noteSubscribed(runner: Runner, system: string, problem: string | null): Promise<void> {
  await runner.query(
    `INSERT INTO system_states (system, subscribed_at, subscribe_problem) SELECT key, CASE WHEN $2::text IS NULL THEN now() END, $2
     FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system) DO UPDATE SET subscribed_at = EXCLUDED.subscribed_at, subscribe_problem = EXCLUDED.subscribe_problem`,
    [system, problem],
  );
}

/** Notes that all records of a system were read; the first time they were learnt by it. */
export async function noteCaughtUp(runner: Runner, system: string): Promise<void> {
  await runner.query(
    `INSERT INTO system_states (system, learnt_at, caught_up_at) SELECT key, now(), now() FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system) DO UPDATE SET learnt_at = coalesce(system_states.learnt_at, now()), caught_up_at = now()`,
    [system],
  );
}

/** Notes by how much differs what a system says of its record types, or why that could not be read. */
export async function noteSchemaLook(
  runner: Runner,
  system: string,
  { changes, problem }: { readonly changes: number; readonly problem: string | null },
): Promise<void> {
  await runner.query(
    `INSERT INTO system_states (system, schema_looked_at, schema_changes, schema_problem)
     SELECT key, now(), $2, $3 FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system) DO UPDATE SET schema_looked_at = EXCLUDED.schema_looked_at, schema_changes = EXCLUDED.schema_changes,
       schema_problem = EXCLUDED.schema_problem`,
    [system, changes, problem],
  );
}

/** Returns whether the records of a system were read before. */
export async function isLearnt(runner: Runner, system: string): Promise<boolean> {
  const { rowCount } = await runner.query(
    'SELECT 1 FROM system_states WHERE system = $1 AND learnt_at IS NOT NULL',
    [system],
  );
  return rowCount !== 0;
}

/** Returns how each system stands, in their order. */
export async function readHealth(runner: Runner): Promise<readonly SystemHealth[]> {
  const { rows } = await runner.query<Omit<SystemHealth, 'lastEvent'>>(
    `SELECT key AS system, coalesce(standing, 'answers') AS standing, since, coalesce(because, '') AS because, next_try AS "nextTry",
       milliseconds, answered_at AS "answeredAt",
       (SELECT count(*)::integer FROM inbox WHERE state = 'waiting' AND waits_for = key) AS waiting,
       CASE WHEN connection ? 'subscribe' THEN subscribed_at IS NOT NULL END AS subscribed, caught_up_at AS "caughtUpAt",
       paused OR (SELECT paused_at IS NOT NULL FROM installation) AS paused,
       CASE WHEN schema_looked_at IS NOT NULL THEN json_build_object('lookedAt', schema_looked_at, 'changes', schema_changes,
         'problem', schema_problem) END AS schema,
       coalesce((SELECT json_agg(json_build_object('recordType', record_type, 'askedAt', asked_at, 'askedFound', asked_found,
         'comparedAt', compared_at, 'comparedFound', compared_found, 'problem', problem) ORDER BY record_type)
         FROM listening WHERE listening.system = key), '[]') AS listening
     FROM systems LEFT JOIN system_states ON system_states.system = key ORDER BY position, key`,
  );
  const last = await lastEvents(
    runner,
    rows.map(({ system }) => system),
  );
  return rows.map((row) => ({ ...row, lastEvent: last.get(row.system) ?? null }));
}

/**
 * Returns when the last event of each system came. Each is asked for by name: of a name that is known the planner sees whether a system has
 * few events or many, and for one that has none it would go through all there are.
 */
async function lastEvents(
  runner: Runner,
  systems: readonly string[],
): Promise<ReadonlyMap<string, SystemHealth['lastEvent']>> {
  if (systems.length === 0) return new Map();
  const { rows } = await runner.query<{ system: string; at: SystemHealth['lastEvent'] }>(
    systems
      .map(
        (_system, at) =>
          `SELECT $${at + 1}::text AS system, (SELECT received_at FROM inbox
             WHERE inbox.system = $${at + 1} AND event IS NOT NULL ORDER BY id DESC LIMIT 1) AS at`,
      )
      .join(' UNION ALL '),
    [...systems],
  );
  return new Map(rows.map(({ system, at }) => [system, at]));
}
