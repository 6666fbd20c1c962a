import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { bundleProblemText, readBundles, type WholeBundle } from '@vast-knot/core';
import type { Config } from '../config/config';
import { connectionSchema, inletSchema, type Connection, type Inlet } from '../connector/connection';
import { inTransaction, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { parsed } from '../http/problem';
import { insertSample } from '../samples/repository';
import { insertTable } from '../tables/repository';

/** Loads the bundles of the demo when there are no systems yet. */
export async function loadDemo(pool: Pool, folder: string, config: Config): Promise<void> {
  const { rowCount } = await pool.query('SELECT 1 FROM systems LIMIT 1');
  if (rowCount !== 0) return;
  const { systems, tables, rules, samples } = await readDemo(folder);
  await inTransaction(pool, async (client) => {
    for (const [position, { system, connection = {} }] of systems.entries()) {
      await client.query('INSERT INTO systems VALUES ($1, $2, $3, $4)', [
        system.key,
        position,
        JSON.stringify(system),
        JSON.stringify(withAddress(connection, config.connections[system.key]?.baseUrl)),
      ]);
    }
    for (const table of tables) await insertTable(client, table);
    for (const [position, { id, published, rule }] of rules.entries()) {
      const body = JSON.stringify(rule);
      await client.query('INSERT INTO rules (id, position, draft, published) VALUES ($1, $2, $3, $4)', [
        id,
        position,
        body,
        published ? 1 : null,
      ]);
      if (published) {
        await client.query(
          `INSERT INTO rule_versions (rule_id, version, body, published_by) VALUES ($1, 1, $2, 'demo')`,
          [id, body],
        );
      }
    }
    for (const sample of samples) await insertSample(client, sample);
  });
}

/** The bundles of a folder and the folders in it, in the order of their names. */
async function readDemo(folder: string): Promise<WholeBundle> {
  const entries = await readdir(folder, { recursive: true });
  const files = entries.filter((name) => name.endsWith('.json')).sort();
  const read = readBundles(
    await Promise.all(
      files.map(async (file) => ({
        file,
        json: JSON.parse(await readFile(join(folder, file), 'utf8')) as unknown,
      })),
    ),
  );
  if (read.ok) return read.bundle;
  throw new Error(read.problems.map(bundleProblemText).join(' '));
}

/** Gives the systems the addresses and secrets of this environment. */
export async function connectSystems(
  pool: Pool,
  seal: Seal,
  connections: Config['connections'],
): Promise<void> {
  for (const [key, { baseUrl, token, webhookSecret }] of Object.entries(connections)) {
    const { rowCount } = await pool.query(
      `UPDATE systems SET connection = CASE WHEN $2::text IS NULL THEN connection
         ELSE jsonb_set(connection, '{baseUrl}', to_jsonb($2::text)) END WHERE key = $1`,
      [key, baseUrl ?? null],
    );
    if (rowCount === 0) continue;
    for (const [name, value] of Object.entries({ token, webhook: webhookSecret })) {
      if (value === undefined) continue;
      await pool.query(
        `INSERT INTO secrets VALUES ($1, $2, $3) ON CONFLICT (system, name) DO UPDATE SET sealed = EXCLUDED.sealed`,
        [key, name, seal.seal(value)],
      );
    }
  }
}

function withAddress(
  connection: Readonly<Record<string, unknown>>,
  baseUrl = 'http://127.0.0.1:1',
): Connection | Inlet {
  return 'recordTypes' in connection
    ? parsed(connectionSchema, { ...connection, baseUrl })
    : parsed(inletSchema, connection);
}

/** Makes the endpoints of this environment known. */
export async function connectEndpoints(
  pool: Pool,
  seal: Seal,
  endpoints: Config['endpoints'],
): Promise<void> {
  for (const [key, { name, url, secret }] of Object.entries(endpoints)) {
    await pool.query(
      `INSERT INTO endpoints (key, name, url, sealed) VALUES ($1, $2, $3, $4)
       ON CONFLICT (key) DO UPDATE SET name = EXCLUDED.name, url = EXCLUDED.url, sealed = EXCLUDED.sealed`,
      [key, name, url, seal.seal(secret)],
    );
  }
}
