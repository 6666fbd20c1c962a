import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import Joi from 'joi';
import {
  ruleBodySchema,
  sampleSchema,
  systemSchema,
  tableSchema,
  type RuleBody,
  type Sample,
  type System,
} from '@vast-knot/core';
import type { Config } from '../config';
import { connectionSchema, inletSchema, type Connection, type Inlet } from '../connector/connection';
import { inTransaction, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { parsed } from '../http/problem';
import { insertSample } from '../samples/repository';
import { insertTable } from '../tables/repository';

interface SystemFile {
  readonly system: System;
  /** Without an address, which differs by environment; an inlet has none. */
  readonly connection: Omit<Connection, 'baseUrl'> | Inlet;
}

interface RuleFile {
  readonly id: string;
  readonly published: boolean;
  readonly rule: RuleBody;
}

/** Loads the demo's systems, tables, rules and samples when there are no systems yet. */
export async function loadDemo(pool: Pool, folder: string, config: Config): Promise<void> {
  const { rowCount } = await pool.query('SELECT 1 FROM systems LIMIT 1');
  if (rowCount !== 0) return;
  const systems = await readAll<SystemFile>(join(folder, 'systems'));
  const tables = await readAll<unknown>(join(folder, 'tables'));
  const rules = await readAll<RuleFile>(join(folder, 'rules'));
  const samples = await readAll<Sample>(join(folder, 'samples'));
  await inTransaction(pool, async (client) => {
    for (const [position, { system, connection }] of systems.entries()) {
      const known = parsed(systemSchema, system);
      await client.query('INSERT INTO systems VALUES ($1, $2, $3, $4)', [
        known.key,
        position,
        JSON.stringify(known),
        JSON.stringify(withAddress(connection, config.connections[system.key]?.baseUrl)),
      ]);
    }
    for (const file of tables) {
      await insertTable(client, parsed(tableSchema, file));
    }
    for (const [position, { id, published, rule }] of rules.entries()) {
      const body = JSON.stringify(parsed(ruleBodySchema, rule));
      await client.query('INSERT INTO rules (id, position, draft, published) VALUES ($1, $2, $3, $4)', [
        parsed(Joi.string().guid(), id),
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
    for (const sample of samples) await insertSample(client, parsed(sampleSchema, sample));
  });
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
  connection: SystemFile['connection'],
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

async function readAll<T>(folder: string): Promise<T[]> {
  const files = (await readdir(folder)).filter((file) => file.endsWith('.json')).sort();
  return Promise.all(files.map(async (file) => JSON.parse(await readFile(join(folder, file), 'utf8')) as T));
}
