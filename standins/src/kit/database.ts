import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import pg from 'pg';
import type { Application } from './definition';

export type Pool = pg.Pool;
export type Client = pg.PoolClient;

/** Opens an application's database, making it when the server does not have it, and brings it up to date. */
export async function openDatabase(url: string, migrations: string, application: Application): Promise<Pool> {
  await createIfMissing(url);
  const pool = new pg.Pool({ connectionString: url, max: 8, keepAlive: true });
  // A connection that breaks is replaced by the next that is asked for.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
  await migrate(pool, migrations);
  for (const record of application.records) {
    for (const field of record.indexed) {
      const name = `records_${record.type}_${field.toLowerCase()}`;
      await pool.query(
        `CREATE INDEX IF NOT EXISTS "${name}" ON records ((doc->>'${field}'), id) WHERE type = '${record.type}'`,
      );
    }
  }
  await seedIfEmpty(pool, application);
  return pool;
}

/** Makes a database when its server does not have it. */
export async function createIfMissing(url: string): Promise<void> {
  const target = new URL(url);
  const name = target.pathname.slice(1);
  target.pathname = '/postgres';
  const client = new pg.Client({ connectionString: target.href });
  await client.connect();
  try {
    const { rowCount } = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [name]);
    if (rowCount === 0) await client.query(`CREATE DATABASE ${client.escapeIdentifier(name)}`);
  } finally {
    await client.end();
  }
}

async function migrate(pool: Pool, folder: string): Promise<void> {
  await pool.query('CREATE TABLE IF NOT EXISTS migrations (name text PRIMARY KEY)');
  const files = (await readdir(folder)).filter((file) => file.endsWith('.sql')).sort();
  for (const file of files) {
    const { rowCount } = await pool.query('SELECT 1 FROM migrations WHERE name = $1', [file]);
    if (rowCount !== 0) continue;
    const sql = await readFile(join(folder, file), 'utf8');
    await inTransaction(pool, async (client) => {
      await client.query(sql);
      await client.query('INSERT INTO migrations (name) VALUES ($1)', [file]);
    });
  }
}

async function seedIfEmpty(pool: Pool, application: Application): Promise<void> {
  const { rowCount } = await pool.query('SELECT 1 FROM ids LIMIT 1');
  if (rowCount !== 0) return;
  const seed = application.seed();
  await inTransaction(pool, async (client) => {
    for (const record of application.records) {
      const documents = seed.get(record.type) ?? [];
      const ids = documents.map((_document, at) => record.idPrefix + String(record.firstId + at));
      await client.query(
        `INSERT INTO records (type, id, version, doc, updated_at)
         SELECT $1, id, 1, doc, '2026-01-05T08:00:00Z' FROM unnest($2::text[], $3::jsonb[]) AS seed (id, doc)`,
        [record.type, ids, documents.map((document) => JSON.stringify(document))],
      );
      await client.query('INSERT INTO ids (type, last) VALUES ($1, $2)', [
        record.type,
        record.firstId + documents.length - 1,
      ]);
    }
  });
}

/** Runs `work` in one transaction; an exception undoes all of it. */
export async function inTransaction<T>(pool: Pool, work: (client: Client) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  try {
    await client.query('BEGIN');
    const result = await work(client);
    await client.query('COMMIT');
    return result;
  } catch (thrown) {
    await client.query('ROLLBACK');
    throw thrown;
  } finally {
    client.release();
  }
}
