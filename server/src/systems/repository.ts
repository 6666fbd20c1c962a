import type { System } from '@vast-knot/core';
import { connectionFrom, type Connection } from '../connector/connection';
import type { Client, Runner } from '../db/pool';
import type { Seal } from '../db/seal';
import { parsed } from '../http/problem';

/** A system as it is kept: its record types, how it is reached, and its secrets, opened. */
export interface KeptSystem {
  readonly definition: System;
  readonly connection: Connection;
  /** By name: `token` signs us in, `webhook` signs what it sends. */
  readonly secrets: Readonly<Record<string, string>>;
  /** Nothing is asked of it until it is to go on. */
  readonly paused: boolean;
}

/** Returns the systems of these keys in their order. Secrets are opened with the key of the installation. */
export async function readSystems(
  runner: Runner,
  seal: Seal,
  keys: readonly string[],
): Promise<readonly KeptSystem[]> {
  const [systems, secrets] = [
    await runner.query<{ definition: System; connection: Record<string, unknown>; paused: boolean }>(
      `SELECT definition, connection, paused OR paused_at IS NOT NULL AS paused FROM systems, installation
       WHERE key = ANY ($1) ORDER BY position, key`,
      [keys],
    ),
    await runner.query<{ system: string; name: string; sealed: Buffer }>(
      'SELECT system, name, sealed FROM secrets WHERE system = ANY ($1)',
      [keys],
    ),
  ];
  return systems.rows.map(({ definition, connection, paused }) => ({
    definition,
    paused,
    connection: readConnection(connection),
    secrets: Object.fromEntries(
      secrets.rows
        .filter(({ system }) => system === definition.key)
        .map(({ system, name, sealed }) => [name, seal.open(sealed, ofSystem(system, name))]),
    ),
  }));
}

/** Returns a connection from JSON of any version of the format. Throws a 422 that names what is wrong. */
export function readConnection(json: Readonly<Record<string, unknown>>): Connection {
  const { schema, json: current } = connectionFrom(json);
  return parsed(schema, current);
}

export async function hasSystems(runner: Runner): Promise<boolean> {
  const { rowCount } = await runner.query('SELECT 1 FROM systems LIMIT 1');
  return rowCount !== 0;
}

/** A new system, with its place in the order in which systems are shown. */
interface NewSystem {
  readonly position: number;
  readonly definition: System;
  readonly connection: Connection;
}

export async function insertSystem(
  runner: Runner,
  { position, definition, connection }: NewSystem,
): Promise<void> {
  await runner.query('INSERT INTO systems (key, position, definition, connection) VALUES ($1, $2, $3, $4)', [
    definition.key,
    position,
    JSON.stringify(definition),
    JSON.stringify(connection),
  ]);
}

/** Adds a system after all others. Returns whether no other has its key. */
export async function addSystem(
  runner: Runner,
  { definition, connection }: Omit<NewSystem, 'position'>,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `INSERT INTO systems (key, position, definition, connection)
     SELECT $1, coalesce(max(position), -1) + 1, $2, $3 FROM systems ON CONFLICT (key) DO NOTHING`,
    [definition.key, JSON.stringify(definition), JSON.stringify(connection)],
  );
  return rowCount === 1;
}

/** Gives a system another definition and connection. */
export async function changeSystem(
  runner: Runner,
  { definition, connection }: Omit<NewSystem, 'position'>,
): Promise<void> {
  await runner.query('UPDATE systems SET definition = $2, connection = $3 WHERE key = $1', [
    definition.key,
    JSON.stringify(definition),
    JSON.stringify(connection),
  ]);
}

/** Returns a system as it is kept, which nobody else changes until the end of the transaction; undefined where there is none. */
export async function lockSystem(client: Client, seal: Seal, key: string): Promise<KeptSystem | undefined> {
  await client.query('SELECT 1 FROM systems WHERE key = $1 FOR UPDATE', [key]);
  const [kept] = await readSystems(client, seal, [key]);
  return kept;
}

/** Pauses a system, or lets it go on. Returns whether it was paused before; undefined where there is no such system. */
export async function pauseSystem(
  runner: Runner,
  key: string,
  paused: boolean,
): Promise<{ readonly was: boolean } | undefined> {
  const { rows } = await runner.query<{ was: boolean }>(
    `WITH before AS (SELECT key, paused FROM systems WHERE key = $1 FOR UPDATE)
     UPDATE systems SET paused = $2 FROM before WHERE systems.key = before.key RETURNING before.paused AS was`,
    [key, paused],
  );
  return rows[0];
}

/** Takes a system out, with its secrets. What was last seen of its records stays, and how far it was listened to. */
export async function removeSystem(runner: Runner, key: string): Promise<void> {
  await runner.query('DELETE FROM systems WHERE key = $1', [key]);
}

/** Gives a system another address, and user where it has one. Returns whether there is such a system. */
export async function moveSystem(
  runner: Runner,
  key: string,
  { baseUrl, user }: { readonly baseUrl?: string | undefined; readonly user?: string | undefined },
): Promise<boolean> {
  const { rowCount } = await runner.query(
    'UPDATE systems SET connection = connection || jsonb_strip_nulls($2::jsonb) WHERE key = $1',
    [key, JSON.stringify({ baseUrl: baseUrl ?? null, user: user ?? null })],
  );
  return rowCount === 1;
}

/** Where a secret of a system is sealed for. */
export const ofSystem = (system: string, name: string) => `system ${system} ${name}`;

/** Keeps a secret of a system, sealed. */
export async function keepSecret(
  runner: Runner,
  seal: Seal,
  { system, name, value }: { readonly system: string; readonly name: string; readonly value: string },
): Promise<void> {
  await runner.query(
    `INSERT INTO secrets (system, name, sealed) VALUES ($1, $2, $3)
     ON CONFLICT (system, name) DO UPDATE SET sealed = EXCLUDED.sealed`,
    [system, name, seal.seal(value, ofSystem(system, name))],
  );
}
