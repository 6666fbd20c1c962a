import type { RequestHandler } from 'express';
import connectPgSimple from 'connect-pg-simple';
import session from 'express-session';
import { may, rights, type Right, type Role } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { hashPassword, passwordMatches } from './passwords';
import { HttpProblem } from './problem';

/** Somebody who is signed in. */
export interface Person {
  readonly name: string;
  readonly role: Role;
}

declare module 'express-session' {
  interface SessionData {
    user: Person;
  }
}

export function sessions(pool: Pool, config: Config): RequestHandler {
  const Store = connectPgSimple(session);
  return session({
    name: 'vast-knot',
    secret: config.sessionSecret,
    store: new Store({ pool, tableName: 'sessions' }),
    resave: false,
    saveUninitialized: false,
    rolling: true,
    cookie: {
      httpOnly: true,
      sameSite: 'strict',
      secure: config.publicUrl.startsWith('https:'),
      maxAge: 12 * 60 * 60 * 1000,
    },
  });
}

/** Takes changes from our own pages only: a page of another origin is refused. */
export const ownPagesOnly: RequestHandler = (request, _response, next) => {
  const reading = request.method === 'GET' || request.method === 'HEAD';
  const origin = request.get('Origin');
  // A page without an origin of its own says “null”, which is no address.
  const from = origin !== undefined && URL.canParse(origin) ? new URL(origin).host : origin;
  if (!reading && from !== undefined && from !== request.get('Host')) {
    throw new HttpProblem(403, 'Not allowed', 'Changes are taken from our own pages only.');
  }
  next();
};

/** Lets those through who are signed in and have a right. */
export function requireRight(right: Right): RequestHandler {
  return (request, _response, next) => {
    const { user } = request.session;
    if (!user) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
    if (!may(user.role, right)) {
      throw new HttpProblem(403, 'Not allowed', `${user.name} may not ${rights[right]}.`);
    }
    next();
  };
}

/** Makes the users of the configuration, or gives them their passwords and roles anew. */
export async function ensureUsers(pool: Pool, users: Config['users']): Promise<void> {
  for (const [name, { password, role }] of Object.entries(users)) {
    const { rows } = await pool.query<{ password_hash: string; role: string }>(
      'SELECT password_hash, role FROM users WHERE name = $1',
      [name],
    );
    const [known] = rows;
    if (known && known.role === role && (await passwordMatches(password, known.password_hash))) continue;
    await pool.query(
      `INSERT INTO users (name, password_hash, role) VALUES ($1, $2, $3)
       ON CONFLICT (name) DO UPDATE SET password_hash = EXCLUDED.password_hash, role = EXCLUDED.role`,
      [name, await hashPassword(password), role],
    );
  }
}
