import type { PresenceAsked, PresenceKind, PresenceView } from '@vast-knot/core';
import { tell } from '../db/notices';
import type { Pool } from '../db/pool';

/** Whoever has something open says so this often, at least; who was silent for longer than two and a half times that has left. */
export const presenceSeconds = 16;
const goneSeconds = presenceSeconds * 2.5;

/** Notes that somebody has something open in a tab of their browser. Returns who else has, the one who came last first. */
export async function noteOpen(
  pool: Pool,
  person: string,
  { tab, kind, key }: PresenceAsked,
): Promise<readonly PresenceView[]> {
  const { rows: before } = await pool.query<{ kind: PresenceKind; key: string; lately: boolean }>(
    `WITH before AS (SELECT kind, key, seen_at > now() - make_interval(secs => $5) AS lately FROM presence WHERE tab = $1),
       noted AS (INSERT INTO presence (tab, person, kind, key) VALUES ($1, $2, $3, $4)
         ON CONFLICT (tab) DO UPDATE SET person = EXCLUDED.person, kind = EXCLUDED.kind, key = EXCLUDED.key, seen_at = now())
     SELECT * FROM before`,
    [tab, person, kind, key, goneSeconds],
  );
  const [was] = before;
  const isNews = !was?.lately || was.kind !== kind || was.key !== key;
  if (isNews) await tell(pool, { kind: 'presence', of: kind, key });
  if (was && isNews && (was.kind !== kind || was.key !== key))
    await tell(pool, { kind: 'presence', of: was.kind, key: was.key });
  const { rows } = await pool.query<PresenceView>(
    `SELECT person, max(seen_at) AS at FROM presence
     WHERE kind = $1 AND key = $2 AND person <> $3 AND seen_at > now() - make_interval(secs => $4)
     GROUP BY person ORDER BY max(seen_at) DESC LIMIT 20`,
    [kind, key, person, goneSeconds],
  );
  return rows;
}

/** Notes that a tab has it open no more. */
export async function noteClosed(pool: Pool, person: string, tab: string): Promise<void> {
  const { rows } = await pool.query<{ kind: PresenceKind; key: string }>(
    'DELETE FROM presence WHERE tab = $1 AND person = $2 RETURNING kind, key',
    [tab, person],
  );
  for (const { kind, key } of rows) await tell(pool, { kind: 'presence', of: kind, key });
}

/** Forgets who left long ago. */
export async function forgetPresence(pool: Pool): Promise<void> {
  await pool.query("DELETE FROM presence WHERE seen_at < now() - interval '1 hour'");
}
