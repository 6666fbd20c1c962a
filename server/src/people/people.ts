import type { Habits, PersonView, Right } from '@vast-knot/core';
import { builtInRoles } from '@vast-knot/core';
import type { Client, Pool, Runner } from '../db/pool';
import { inTransaction } from '../db/pool';
import type { Config } from '../config/config';
import { HttpProblem, notFound } from '../http/problem';
import { hashPassword, passwordMatches } from './passwords';
import { rightsOf } from './roles';

/** A person with what they may, as it is read with each request. */
export interface Known {
  readonly name: string;
  readonly fullName: string;
  readonly mail: string;
  readonly habits: Habits;
  readonly role: { readonly key: string; readonly name: string };
  readonly rights: readonly Right[];
  readonly secondFactor: boolean;
  /** Their role wants a second factor. */
  readonly wantsSecondFactor: boolean;
}

interface KnownRow {
  readonly name: string;
  readonly full_name: string;
  readonly mail: string;
  readonly habits: Habits;
  readonly role: string;
  readonly role_name: string | null;
  readonly rights: readonly string[] | null;
  readonly has_code: boolean;
  readonly second_factor: boolean;
}

/** Returns a person who may sign in; undefined for one who may not, or whom nobody knows. */
export async function readPerson(runner: Runner, name: string): Promise<Known | undefined> {
  const { rows } = await runner.query<KnownRow>({
    name: 'a person and what they may',
    text: `SELECT people.name, full_name, mail, habits, role, roles.name AS role_name, rights, code_secret IS NOT NULL AS has_code,
             second_factor FROM people JOIN roles ON roles.key = role WHERE people.name = $1 AND stopped_at IS NULL`,
    values: [name],
  });
  const [row] = rows;
  if (!row) return undefined;
  const builtIn = builtInRoles.find(({ key }) => key === row.role);
  return {
    name: row.name,
    fullName: row.full_name,
    mail: row.mail,
    habits: row.habits,
    role: { key: row.role, name: builtIn?.name ?? row.role_name ?? row.role },
    rights: rightsOf(row.role, row.rights),
    secondFactor: row.has_code,
    wantsSecondFactor: row.second_factor,
  };
}

/** With what a person proves who they are. */
export interface Proof {
  readonly passwordHash: string;
  /** Sealed. */
  readonly codeSecret: Buffer | null;
  readonly codeStep: number;
}

/** Returns with what a person who may sign in proves who they are; undefined where nobody of this name may. */
export async function readProof(runner: Runner, name: string): Promise<Proof | undefined> {
  const { rows } = await runner.query<{ hash: string; secret: Buffer | null; step: string }>(
    `SELECT password_hash AS hash, code_secret AS secret, code_step AS step FROM people
     WHERE name = $1 AND stopped_at IS NULL`,
    [name],
  );
  const [row] = rows;
  return row && { passwordHash: row.hash, codeSecret: row.secret, codeStep: Number(row.step) };
}

/** Takes a code's step of time as used. Returns false where it was used meanwhile: of two who send the same code one gets in. */
export async function useCode(runner: Runner, name: string, step: number): Promise<boolean> {
  const { rowCount } = await runner.query(
    'UPDATE people SET code_step = $2 WHERE name = $1 AND code_step < $2',
    [name, step],
  );
  return rowCount === 1;
}

/** Where the secret of somebody's codes is sealed for. */
export const ofPerson = (name: string) => `person ${name}`;

/** Keeps the sealed secret of a person's codes; null takes it away. */
export async function keepCodes(
  runner: Runner,
  {
    name,
    secret,
    step = 0,
  }: { readonly name: string; readonly secret: Buffer | null; readonly step?: number },
): Promise<void> {
  await runner.query('UPDATE people SET code_secret = $2, code_step = $3 WHERE name = $1', [
    name,
    secret,
    step,
  ]);
}

export async function keepPassword(runner: Runner, name: string, password: string): Promise<void> {
  await runner.query('UPDATE people SET password_hash = $2, own_password = true WHERE name = $1', [
    name,
    await hashPassword(password),
  ]);
}

/** Notes that a person was here, once in a minute at most. */
export async function noteSeen(runner: Runner, name: string): Promise<void> {
  await runner.query(
    `UPDATE people SET seen_at = now() WHERE name = $1 AND (seen_at IS NULL OR seen_at < now() - interval '1 minute')`,
    [name],
  );
}

/** Returns everybody, in the order of their names. */
export async function readPeople(runner: Runner): Promise<readonly PersonView[]> {
  const { rows } = await runner.query<PersonView>(
    `SELECT name, full_name AS "fullName", mail, role, code_secret IS NOT NULL AS "secondFactor", made_at AS "madeAt",
       made_by AS "madeBy", stopped_at AS "stoppedAt", seen_at AS "seenAt",
       (SELECT count(*)::int FROM sessions WHERE sess -> 'user' ->> 'name' = people.name AND expire > now()) AS sessions,
       (SELECT count(*)::int FROM tokens WHERE person = people.name AND ends_at > now()) AS tokens
     FROM people ORDER BY lower(name), name`,
  );
  return rows;
}

/** What can be changed of a person by whoever looks after people. */
export interface PersonChange {
  readonly role?: string;
  readonly fullName?: string;
  readonly mail?: string;
  /** They can no longer sign in, or can again. */
  readonly stopped?: boolean;
}

/** Changes a person. Throws a problem where nobody would be left who looks after people. */
export async function changePerson(
  pool: Pool,
  name: string,
  { role, fullName, mail, stopped }: PersonChange,
): Promise<void> {
  await inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `UPDATE people SET role = coalesce($2, role), full_name = coalesce($3, full_name), mail = coalesce($4, mail),
         stopped_at = CASE WHEN $5 THEN coalesce(stopped_at, now()) WHEN NOT $5 THEN NULL ELSE stopped_at END
       WHERE name = $1`,
      [name, role ?? null, fullName ?? null, mail ?? null, stopped ?? null],
    );
    if (rowCount === 0) throw notFound(`person ${name}`);
    await requireSomebody(client);
    await tellOfPerson(client, name);
    if (stopped === true) {
      await signOutEverywhere(client, name);
      await client.query('DELETE FROM tokens WHERE person = $1', [name]);
    }
  });
}

/** Held while it is looked whether somebody is left who looks after people, so that two who remove each other are not both let do it. */
const lookingAfterLock = 4617;

async function requireSomebody(client: Client): Promise<void> {
  await client.query('SELECT pg_advisory_xact_lock($1)', [lookingAfterLock]);
  if (!(await isLookedAfter(client)))
    throw new HttpProblem(409, 'Needed', 'Nobody would be left who may invite people and give them roles.');
}

/** Returns whether somebody who may sign in looks after people. */
export async function isLookedAfter(runner: Runner): Promise<boolean> {
  const { rows } = await runner.query<{ role: string; rights: readonly string[] | null }>(
    'SELECT DISTINCT role, rights FROM people JOIN roles ON roles.key = role WHERE stopped_at IS NULL',
  );
  return rows.some(({ role, rights }) => rightsOf(role, rights).includes('people.change'));
}

/** Ends the sessions of a person, but for one where that is named. */
export async function signOutEverywhere(runner: Runner, name: string, but = ''): Promise<void> {
  await runner.query(`DELETE FROM sessions WHERE sess -> 'user' ->> 'name' = $1 AND sid <> $2`, [name, but]);
  await tellOfPerson(runner, name);
}

/** Has every process end what a person listens to, so that they ask anew as who they are now. */
async function tellOfPerson(runner: Runner, name: string): Promise<void> {
  await runner.query(
    `SELECT pg_notify('vast_knot', json_build_object('kind', 'person', 'name', $1::text)::text)`,
    [name],
  );
}

/** Makes a person. Throws a problem where the name is taken. */
export async function makePerson(
  runner: Runner,
  {
    name,
    password,
    role,
    by,
    fullName = '',
    mail = '',
    ownPassword = true,
  }: {
    readonly name: string;
    readonly password: string;
    readonly role: string;
    readonly by: string;
    readonly fullName?: string;
    readonly mail?: string;
    readonly ownPassword?: boolean;
  },
): Promise<void> {
  const { rowCount } = await runner.query(
    `INSERT INTO people (name, password_hash, role, made_by, full_name, mail, own_password) VALUES ($1, $2, $3, $4, $5, $6, $7)
     ON CONFLICT (name) DO NOTHING`,
    [name, await hashPassword(password), role, by, fullName, mail, ownPassword],
  );
  if (rowCount === 0) throw new HttpProblem(409, 'Taken', `There is somebody called ${name} already.`);
}

/**
 * Makes those whom the settings name and who are not there yet. Whoever is there stays as they were made here, with the password of the
 * settings until they choose one themselves.
 */
export async function ensurePeople(pool: Pool, users: Config['users']): Promise<void> {
  const { rows } = await pool.query<{ name: string; hash: string; own: boolean }>(
    'SELECT name, password_hash AS hash, own_password AS own FROM people',
  );
  const known = new Map(rows.map((row) => [row.name, row]));
  for (const [name, { password, role }] of Object.entries(users)) {
    const there = known.get(name);
    if (!there) await makePerson(pool, { name, password, role, by: 'the settings', ownPassword: false });
    else if (!there.own && !(await passwordMatches(password, there.hash)))
      await pool.query('UPDATE people SET password_hash = $2 WHERE name = $1', [
        name,
        await hashPassword(password),
      ]);
  }
}
