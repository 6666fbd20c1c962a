import type { SessionView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { notFound } from '../http/problem';
import { idleMs } from './session';

/** What tells a session from others without being what the browser has. */
const idOf = `left(encode(sha256(convert_to(sid, 'UTF8')), 'hex'), 32)`;

/** Returns the sessions of a person, the last one used first; `here` is the id of the one that asks. */
export async function readSessions(
  runner: Runner,
  { name, here }: { readonly name: string; readonly here: string },
): Promise<readonly SessionView[]> {
  const { rows } = await runner.query<SessionView>(
    `SELECT ${idOf} AS id, sid = $2 AS here, coalesce(sess ->> 'from', '') AS "from", coalesce(sess ->> 'agent', '') AS agent,
       to_timestamp((sess ->> 'since')::float / 1000) AS since, expire - make_interval(secs => ${idleMs / 1000}) AS "seenAt"
     FROM sessions WHERE sess -> 'user' ->> 'name' = $1 AND expire > now() ORDER BY expire DESC`,
    [name, here],
  );
  return rows;
}

/** Ends one session of a person. */
export async function endSession(runner: Runner, name: string, id: string): Promise<void> {
  const { rowCount } = await runner.query(
    `DELETE FROM sessions WHERE sess -> 'user' ->> 'name' = $1 AND ${idOf} = $2`,
    [name, id],
  );
  if (rowCount === 0) throw notFound('such session');
}
