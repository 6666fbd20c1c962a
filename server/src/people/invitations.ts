import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { InvitationView } from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import { keepPassword, makePerson, signOutEverywhere } from './people';

const lastsHours = 48;

const columns = `id, kind, name, mail, role, made_at AS "madeAt", made_by AS "madeBy", ends_at AS "endsAt"`;

const hashOf = (secret: string) => createHash('sha256').update(secret).digest();

/** Returns the invitations that can still be used, the last one first. */
export async function readInvitations(runner: Runner): Promise<readonly InvitationView[]> {
  const { rows } = await runner.query<InvitationView>(
    `SELECT ${columns} FROM invitations WHERE ends_at > now() ORDER BY made_at DESC`,
  );
  return rows;
}

/** Whom an invitation is for, and who makes it. */
export type Invited = Pick<InvitationView, 'kind' | 'name' | 'mail' | 'role' | 'madeBy'>;

/** Makes an invitation to join, or to choose another password. Returns it with what its link ends with, which is kept nowhere. */
export async function invite(
  runner: Runner,
  invited: Invited,
): Promise<{ readonly invitation: InvitationView; readonly secret: string }> {
  const { kind, name, mail, role, madeBy } = invited;
  const secret = randomBytes(24).toString('base64url');
  await runner.query('DELETE FROM invitations WHERE name = $1 AND kind = $2 OR ends_at < now()', [
    name,
    kind,
  ]);
  const { rows } = await runner.query<InvitationView>(
    `INSERT INTO invitations (id, hash, kind, name, mail, role, made_by, ends_at)
     VALUES ($1, $2, $3, $4, $5, $6, $7, now() + interval '${lastsHours} hours') RETURNING ${columns}`,
    [randomUUID(), hashOf(secret), kind, name, mail, role, madeBy],
  );
  const [invitation] = rows;
  if (!invitation) throw new Error('an invitation that was made is not there');
  return { invitation, secret };
}

const unusable = () =>
  new HttpProblem(404, 'Not found', 'This link was used, or is too old. Ask for another one.');

/** Returns what a link is for. Throws a problem for one that was used, or has ended. */
export async function shownOf(runner: Runner, secret: string): Promise<InvitationView> {
  const { rows } = await runner.query<InvitationView>(
    `SELECT ${columns} FROM invitations WHERE hash = $1 AND ends_at > now()`,
    [hashOf(secret)],
  );
  if (!rows[0]) throw unusable();
  return rows[0];
}

/** Uses a link: makes the person, or gives them another password and ends their sessions. Of two who use it at once one does. */
export function useInvitation(
  pool: Pool,
  {
    secret,
    password,
    fullName,
  }: { readonly secret: string; readonly password: string; readonly fullName: string },
): Promise<InvitationView> {
  return inTransaction(pool, async (client) => {
    const { rows } = await client.query<InvitationView>(
      `DELETE FROM invitations WHERE hash = $1 AND ends_at > now() RETURNING ${columns}`,
      [hashOf(secret)],
    );
    const [invitation] = rows;
    if (!invitation) throw unusable();
    const { kind, name, mail, role, madeBy } = invitation;
    if (kind === 'join') {
      await makePerson(client, { name, password, role: role ?? 'viewer', by: madeBy, fullName, mail });
    } else {
      await keepPassword(client, name, password);
      await signOutEverywhere(client, name);
    }
    return invitation;
  });
}

export async function withdrawInvitation(runner: Runner, id: string): Promise<void> {
  const { rowCount } = await runner.query('DELETE FROM invitations WHERE id = $1', [id]);
  if (rowCount === 0) throw notFound('such invitation');
}
