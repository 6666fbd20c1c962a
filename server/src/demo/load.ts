import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { bundleProblemText, readBundles, type WholeBundle, parseJson } from '@vast-knot/core';
import type { Config } from '../config/config';
import { inTransaction, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { keepEndpoint } from '../endpoints/repository';
import { insertRule } from '../rules/repository';
import { insertSample } from '../samples/repository';
import { hasSystems, insertSystem, keepSecret, moveSystem, readConnection } from '../systems/repository';
import { insertTable } from '../tables/repository';

/** Loads the bundles of the demo when there are no systems yet. */
export async function loadDemo(pool: Pool, folder: string, config: Config): Promise<void> {
  if (await hasSystems(pool)) return;
  const { systems, tables, rules, samples } = await readDemo(folder);
  await inTransaction(pool, async (client) => {
    for (const [position, { system, connection = {} }] of systems.entries()) {
      const baseUrl = config.connections[system.key]?.baseUrl ?? nowhere(connection['kind']);
      await insertSystem(client, {
        position,
        definition: system,
        connection: readConnection('recordTypes' in connection ? { ...connection, baseUrl } : connection),
      });
    }
    for (const table of tables) await insertTable(client, table);
    for (const [position, { id, published, folder, rule }] of rules.entries())
      await insertRule(client, { id, position, folder, body: rule, published });
    for (const sample of samples) await insertSample(client, sample);
  });
}

/** Bundles say no address; where the environment says none either, nobody is reached. */
const nowhere = (kind: unknown) =>
  kind === 'postgres' ? 'postgres://127.0.0.1:1/nowhere' : 'http://127.0.0.1:1';

/** Returns the bundles of a folder and the folders in it, in the order of their names. */
async function readDemo(folder: string): Promise<WholeBundle> {
  const entries = await readdir(folder, { recursive: true });
  const files = entries.filter((name) => name.endsWith('.json')).sort();
  const read = readBundles(
    await Promise.all(
      files.map(async (file) => ({
        file,
        json: parseJson(await readFile(join(folder, file), 'utf8')),
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
  for (const [key, { baseUrl, user, token, webhookSecret }] of Object.entries(connections)) {
    if (!(await moveSystem(pool, key, { baseUrl, user }))) continue;
    for (const [name, value] of Object.entries({ token, webhook: webhookSecret }))
      if (value !== undefined) await keepSecret(pool, seal, { system: key, name, value });
  }
}

/** Makes the endpoints of this environment known. */
export async function connectEndpoints(
  pool: Pool,
  seal: Seal,
  endpoints: Config['endpoints'],
): Promise<void> {
  for (const [key, endpoint] of Object.entries(endpoints))
    await keepEndpoint(pool, seal, { key, ...endpoint });
}
