import { allRights, builtInRoles, type Right, type RoleView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';

interface RoleRow {
  readonly key: string;
  readonly name: string | null;
  readonly says: string | null;
  readonly rights: readonly string[] | null;
  readonly second_factor: boolean;
  readonly people: number;
  readonly revision: number;
}

const builtIn = new Map(builtInRoles.map((role) => [role.key, role]));
const known: ReadonlySet<string> = new Set(allRights);

/** Returns the rights of a role, of those that there are: a right that a later version gave up means nothing. */
export function rightsOf(key: string, kept: readonly string[] | null): readonly Right[] {
  return builtIn.get(key)?.rights ?? (kept ?? []).filter((right): right is Right => known.has(right));
}

/** Returns the roles, those that every environment has first. */
export async function readRoles(runner: Runner): Promise<readonly RoleView[]> {
  const { rows } = await runner.query<RoleRow>(
    `SELECT key, name, says, rights, second_factor, revision,
       (SELECT count(*)::int FROM people WHERE people.role = roles.key) AS people
     FROM roles ORDER BY name NULLS FIRST`,
  );
  const order = [...builtIn.keys()];
  return rows.map(viewOf).sort((one, other) => placeIn(order, one.key) - placeIn(order, other.key));
}

const placeIn = (order: readonly string[], key: string) =>
  order.includes(key) ? order.indexOf(key) : order.length;

function viewOf({
  key,
  name,
  says,
  rights,
  second_factor: secondFactor,
  people,
  revision,
}: RoleRow): RoleView {
  const own = builtIn.get(key);
  return {
    key,
    name: own?.name ?? name ?? key,
    says: own?.says ?? says ?? '',
    rights: rightsOf(key, rights),
    builtIn: own !== undefined,
    secondFactor,
    people,
    revision,
  };
}

/** What a person says of a role. */
export type RoleSaid = Pick<RoleView, 'name' | 'says' | 'rights' | 'secondFactor'>;

/**
 * Makes a role (`revision` 0), or changes one that has this revision; of one that every environment has only whether it wants a second
 * factor. Throws a problem where somebody else changed it in between.
 */
export async function keepRole(
  runner: Runner,
  { key, revision, said }: { readonly key: string; readonly revision: number; readonly said: RoleSaid },
): Promise<void> {
  const own = builtIn.get(key);
  if (own && (said.name !== own.name || !sameRights(said.rights, own.rights)))
    throw new HttpProblem(
      422,
      'Not valid',
      `What a ${own.name.toLowerCase()} may cannot be changed. Make a role of your own.`,
    );
  const values: readonly unknown[] = own
    ? [key, null, null, null, said.secondFactor]
    : [key, said.name, said.says, said.rights, said.secondFactor];
  const { rowCount } =
    revision === 0
      ? await runner.query(
          `INSERT INTO roles (key, name, says, rights, second_factor) VALUES ($1, $2, $3, $4, $5) ON CONFLICT (key) DO NOTHING`,
          [...values],
        )
      : await runner.query(
          `UPDATE roles SET name = $2, says = $3, rights = $4, second_factor = $5, revision = revision + 1
           WHERE key = $1 AND revision = $6`,
          [...values, revision],
        );
  if (rowCount === 1) return;
  if (revision === 0) throw new HttpProblem(409, 'Taken', `There is a role ${key} already.`);
  throw new HttpProblem(412, 'Changed in between', `Somebody else changed the role ${said.name} meanwhile.`);
}

function sameRights(one: readonly Right[], other: readonly Right[]): boolean {
  return one.length === other.length && one.every((right) => other.includes(right));
}

/** Removes a role that nobody has. Throws a problem where somebody has it, is invited with it, or everyone needs it. */
export async function removeRole(runner: Runner, key: string): Promise<void> {
  if (builtIn.has(key)) throw new HttpProblem(409, 'Needed', 'Every environment has this role.');
  const { rows } = await runner.query<{ holders: string | null }>(
    `SELECT string_agg(name, ', ' ORDER BY name) AS holders FROM (
       SELECT name FROM people WHERE role = $1 UNION SELECT name FROM invitations WHERE role = $1) AS holding`,
    [key],
  );
  const holders = rows[0]?.holders;
  if (holders !== null && holders !== undefined)
    throw new HttpProblem(409, 'Needed', `Give ${holders} another role first.`);
  const { rowCount } = await runner.query('DELETE FROM roles WHERE key = $1', [key]);
  if (rowCount === 0) throw notFound(`role ${key}`);
}
