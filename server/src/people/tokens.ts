import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { Right, TokenMade, TokenView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';

/** What a token begins with, so that a search for forgotten secrets finds it. */
export const tokenMark = 'vkt_';
const most = 50;

const columns = `id, name, rights, made_at AS "madeAt", ends_at AS "endsAt", used_at AS "usedAt", used_from AS "usedFrom"`;

const hashOf = (token: string) => createHash('sha256').update(token).digest();

/** Returns the tokens of a person, the last one first; those that ended too. */
export async function readTokens(runner: Runner, person: string): Promise<readonly TokenView[]> {
  const { rows } = await runner.query<TokenView>(
    `SELECT ${columns} FROM tokens WHERE person = $1 ORDER BY made_at DESC`,
    [person],
  );
  return rows;
}

/** Makes a token for a person. Returns it with its text, of which only a hash is kept: it has 256 bits of chance, and none is found by trying. */
export async function makeToken(
  runner: Runner,
  {
    person,
    name,
    rights,
    days,
  }: {
    readonly person: string;
    readonly name: string;
    readonly rights: readonly Right[];
    readonly days: number;
  },
): Promise<TokenMade> {
  const token = `${tokenMark}${randomBytes(32).toString('base64url')}`;
  const { rows } = await runner.query<TokenView>(
    `INSERT INTO tokens (id, person, name, hash, rights, ends_at)
     SELECT $1, $2, $3, $4, $5, now() + make_interval(days => $6)
     WHERE (SELECT count(*) FROM tokens WHERE person = $2) < ${most} RETURNING ${columns}`,
    [randomUUID(), person, name, hashOf(token), rights, days],
  );
  const [made] = rows;
  if (!made) throw new HttpProblem(409, 'Too many', `You have ${most} tokens. End one first.`);
  return { ...made, token };
}

export async function endToken(runner: Runner, person: string, id: string): Promise<void> {
  const { rowCount } = await runner.query('DELETE FROM tokens WHERE person = $1 AND id = $2', [person, id]);
  if (rowCount === 0) throw notFound('such token');
}

/** Whose token something is, and what it may at most. */
export interface TokenOwner {
  readonly id: string;
  readonly name: string;
  readonly person: string;
  readonly rights: readonly string[];
}

/** Returns whose a token is; undefined for one that nobody has, or that ended. Notes that it was used, once in a minute at most. */
export async function ownerOf(runner: Runner, token: string, from: string): Promise<TokenOwner | undefined> {
  const { rows } = await runner.query<TokenOwner & { stale: boolean }>({
    name: 'whose token',
    text: `SELECT id, name, person, rights, used_at IS NULL OR used_at < now() - interval '1 minute' OR used_from <> $2 AS stale
           FROM tokens WHERE hash = $1 AND ends_at > now()`,
    values: [hashOf(token), from],
  });
  const [owner] = rows;
  if (owner?.stale === true)
    await runner.query('UPDATE tokens SET used_at = now(), used_from = $2 WHERE id = $1', [owner.id, from]);
  return owner;
}
