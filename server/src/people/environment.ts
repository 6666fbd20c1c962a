import type { EnvironmentView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { HttpProblem } from '../http/problem';

const columns = 'name, colour, second_person AS "secondPerson", revision';

/** Returns how this environment is called and what it asks of people. */
export async function readEnvironment(runner: Runner): Promise<EnvironmentView> {
  const { rows } = await runner.query<EnvironmentView>(`SELECT ${columns} FROM environment`);
  if (!rows[0]) throw new Error('the row of the environment is not there');
  return rows[0];
}

/** Changes it. Throws a problem where somebody else did meanwhile. */
export async function keepEnvironment(
  runner: Runner,
  { name, colour, secondPerson, revision }: EnvironmentView,
): Promise<EnvironmentView> {
  const { rows } = await runner.query<EnvironmentView>(
    `UPDATE environment SET name = $1, colour = $2, second_person = $3, revision = revision + 1
     WHERE revision = $4 RETURNING ${columns}`,
    [name, colour, secondPerson, revision],
  );
  if (rows[0]) return rows[0];
  throw new HttpProblem(412, 'Changed in between', 'Somebody else changed the environment meanwhile.');
}
