import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { runMigrations } from 'graphile-worker';
import { checksumOf, planMigrations, type Applied, type Migration } from './migrationPlan';
import type { Client, Pool } from './pool';

/** Held while one process brings the database up to date; others wait, and find it done. */
const migrationLock = 4602;

/**
 * Brings the database up to date: the job queue's own tables, then our SQL files in the order of their numbers, each in
 * a transaction and only once. The checksum of each is kept.
 *
 * @throws Error with a sentence that says what to do when the files and the database do not belong together, or that names the
 * file which failed; nothing of that file is left behind.
 */
export async function migrate(pool: Pool, folder: string): Promise<void> {
  const client = await pool.connect();
  try {
    await client.query('SELECT pg_advisory_lock($1)', [migrationLock]);
    await runMigrations({ pgPool: pool, noHandleSignals: true });
    await client.query(
      `CREATE TABLE IF NOT EXISTS migrations (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now());
       ALTER TABLE migrations ADD COLUMN IF NOT EXISTS checksum text`,
    );
    const files = await readMigrations(folder);
    const { rows: applied } = await client.query<Applied>(
      'SELECT name, checksum FROM migrations ORDER BY name',
    );
    const plan = planMigrations(files, applied);
    if (!plan.ok) throw new Error(plan.because);
    for (const file of plan.pending) await apply(client, file);
    await keepChecksums(client, files);
  } finally {
    // The lock goes with the connection, also where that broke.
    client.release(true);
  }
}

/** Returns the SQL files of a folder. */
export async function readMigrations(folder: string): Promise<readonly Migration[]> {
  const names = (await readdir(folder)).filter((file) => file.endsWith('.sql')).sort();
  // We wrote it: for each migration that was delivered in other forms, their checksums.
  const earlier = JSON.parse(await readFile(join(folder, 'earlier.json'), 'utf8')) as Partial<
    Record<string, readonly string[]>
  >;
  return Promise.all(
    names.map(async (name) => {
      const sql = await readFile(join(folder, name), 'utf8');
      return { name, sql, checksum: checksumOf(sql), earlier: earlier[name] ?? [] };
    }),
  );
}

async function apply(client: Client, { name, sql, checksum }: Migration): Promise<void> {
  try {
    await client.query('BEGIN');
    await client.query(sql);
    await client.query('INSERT INTO migrations (name, checksum) VALUES ($1, $2)', [name, checksum]);
    await client.query('COMMIT');
  } catch (thrown) {
    // What was begun is undone with the connection.
    const because = thrown instanceof Error ? thrown.message : String(thrown);
    throw new Error(`The migration ${name} failed: ${because}`, { cause: thrown });
  }
}

/** Databases from before checksums were kept get them now, and those that went through an earlier form are as if they had not. */
async function keepChecksums(client: Client, files: readonly Migration[]): Promise<void> {
  await client.query(
    `UPDATE migrations SET checksum = file.checksum
     FROM unnest($1::text[], $2::text[]) AS file (name, checksum)
     WHERE migrations.name = file.name AND migrations.checksum IS DISTINCT FROM file.checksum`,
    [files.map(({ name }) => name), files.map(({ checksum }) => checksum)],
  );
}
