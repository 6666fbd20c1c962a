import type { TellingSettings, TellingView, TellingWay } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** Tries that are kept to be looked at. */
const keptTries = 50;

/** Who is told, and since when that is so. */
export interface KeptTelling extends TellingSettings {
  readonly since: Date;
}

/** Returns who is told; undefined while nobody is. */
export async function readTelling(runner: Runner): Promise<KeptTelling | undefined> {
  const { rows } = await runner.query<{ settings: TellingSettings; since: Date }>(
    'SELECT settings, changed_at AS since FROM telling',
  );
  const [row] = rows;
  return row && { ...row.settings, since: row.since };
}

/** Keeps who is told. */
export async function keepTelling(runner: Runner, settings: TellingSettings, by: string): Promise<void> {
  await runner.query(
    `INSERT INTO telling (settings, changed_by) VALUES ($1, $2)
     ON CONFLICT (only_one) DO UPDATE SET settings = EXCLUDED.settings, changed_by = EXCLUDED.changed_by, changed_at = now()`,
    [JSON.stringify(settings), by],
  );
}

/** Returns who is told, and how telling went, for people. */
export async function viewTelling(runner: Runner, canMail: boolean): Promise<TellingView> {
  const kept = await readTelling(runner);
  const { rows: told } = await runner.query<TellingView['told'][number]>(
    'SELECT at, way, alerts, test, problem FROM told ORDER BY id DESC LIMIT 10',
  );
  const { rows } = await runner.query<{ count: number }>(
    `SELECT count(*)::integer AS count FROM alerts
     WHERE at > now() - interval '1 day' AND (($1 AND address_at IS NULL) OR ($2 AND mail_at IS NULL))`,
    [kept !== undefined && kept.address !== null, canMail && kept !== undefined && kept.mail.length > 0],
  );
  const { since: _since, ...settings } = kept ?? { since: undefined };
  return {
    settings: kept ? (settings as TellingSettings) : null,
    canMail,
    waiting: rows[0]?.count ?? 0,
    told,
  };
}

/** Keeps what came of a try to tell; the oldest tries are forgotten. */
export async function noteTold(
  runner: Runner,
  way: TellingWay,
  {
    alerts,
    problem,
    test = false,
  }: { readonly alerts: number; readonly problem: string | null; readonly test?: boolean },
): Promise<void> {
  await runner.query('INSERT INTO told (way, alerts, test, problem) VALUES ($1, $2, $3, $4)', [
    way,
    alerts,
    test,
    problem,
  ]);
  await runner.query(
    `DELETE FROM told WHERE id <= (SELECT id FROM told ORDER BY id DESC OFFSET ${keptTries} LIMIT 1)`,
  );
}
