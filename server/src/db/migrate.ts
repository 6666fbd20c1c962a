import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { runMigrations } from 'graphile-worker';
import { inTransaction, type Pool } from './pool';

/**
 * Brings the database up to date: the job queue's own tables, then our SQL files in the order of their names, each in
 * a transaction and only once.
 *
 * @throws Error that names the file which failed; nothing of that file is left behind.
 */
export async function migrate(pool: Pool, folder: string): Promise<void> {
  await runMigrations({ pgPool: pool, noHandleSignals: true });
  await pool.query(
    'CREATE TABLE IF NOT EXISTS migrations (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())',
  );
  const files = (await readdir(folder)).filter((file) => file.endsWith('.sql')).sort();
  for (const file of files) {
    const { rowCount } = await pool.query('SELECT 1 FROM migrations WHERE name = $1', [file]);
    if (rowCount !== 0) continue;
    const sql = await readFile(join(folder, file), 'utf8');
    try {
      await inTransaction(pool, async (client) => {
        await client.query(sql);
        await client.query('INSERT INTO migrations (name) VALUES ($1)', [file]);
      });
    } catch (thrown) {
      throw new Error(
        `The migration ${file} failed: ${thrown instanceof Error ? thrown.message : String(thrown)}`,
        {
          cause: thrown,
        },
      );
    }
  }
}
