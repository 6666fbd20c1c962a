import type { Runner } from '../db/pool';

/** Keeps the address under which systems reach this installation. */
export async function keepUrl(runner: Runner, url: string): Promise<void> {
  await runner.query('UPDATE installation SET url = $1 WHERE url IS DISTINCT FROM $1', [url]);
}

/** Returns the address under which systems reach this installation; undefined until a process answers there. */
export async function readUrl(runner: Runner): Promise<string | undefined> {
  const { rows } = await runner.query<{ url: string | null }>('SELECT url FROM installation');
  return rows[0]?.url ?? undefined;
}

/** Who paused everything, and when. */
export interface PausedBy {
  readonly by: string;
  /** ISO 8601. */
  readonly at: string;
}

/** Returns who paused everything; undefined where nobody did. */
export async function readPaused(runner: Runner): Promise<PausedBy | undefined> {
  const { rows } = await runner.query<PausedBy>(
    'SELECT paused_by AS by, paused_at AS at FROM installation WHERE paused_at IS NOT NULL',
  );
  return rows[0];
}

/** Pauses everything, or lets it go on (`by` is null). Every process hears of it, since every system is another by it. */
export async function pauseEverything(runner: Runner, by: string | null): Promise<void> {
  await runner.query(
    `UPDATE installation SET paused_by = $1, paused_at = CASE WHEN $1::text IS NULL THEN NULL ELSE coalesce(paused_at, now()) END`,
    [by],
  );
  await runner.query(`SELECT touch_registry('system', coalesce(array_agg(key), '{}')) FROM systems`);
}

/** Returns the systems that nobody paused by themselves. */
export async function systemsAtWork(runner: Runner): Promise<readonly string[]> {
  const { rows } = await runner.query<{ key: string }>(
    'SELECT key FROM systems WHERE NOT paused ORDER BY position, key',
  );
  return rows.map(({ key }) => key);
}
