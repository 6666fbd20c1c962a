import { Router, type RequestHandler } from 'express';
import connectPgSimple from 'connect-pg-simple';
import { rateLimit } from 'express-rate-limit';
import session from 'express-session';
import Joi from 'joi';
import type { SignedIn } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { hashPassword, passwordMatches } from '../http/passwords';
import { HttpProblem, parsed } from '../http/problem';

declare module 'express-session' {
  interface SessionData {
    user: SignedIn;
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

/** Lets signed-in people through: readers for reading, administrators for everything. Pages of other origins never. */
export const authorise: RequestHandler = (request, _response, next) => {
  const reading = request.method === 'GET' || request.method === 'HEAD';
  const origin = request.get('Origin');
  // A page without an origin of its own says “null”, which is no address.
  const from = origin !== undefined && URL.canParse(origin) ? new URL(origin).host : origin;
  if (!reading && from !== undefined && from !== request.get('Host')) {
    throw new HttpProblem(403, 'Not allowed', 'Changes are taken from our own pages only.');
  }
  const user = request.session.user;
  if (!user) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
  if (!reading && user.role !== 'administrator') {
    throw new HttpProblem(403, 'Not allowed', `${user.name} may read, and changes need an administrator.`);
  }
  next();
};

const signIn = Joi.object<{ name: string; password: string }>({
  name: Joi.string().max(80).required(),
  password: Joi.string().max(200).required(),
});

/** Sign in, sign out, and who is signed in. */
export function sessionRoutes(pool: Pool): Router {
  const router = Router();
  const limit = rateLimit({
    windowMs: 60_000,
    limit: 20,
    skipSuccessfulRequests: true,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
  });
  router.get('/', (request, response) => {
    const user = request.session.user;
    if (!user) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
    response.json(user);
  });
  router.post('/', limit, async (request, response) => {
    const { name, password } = parsed(signIn, request.body);
    const { rows } = await pool.query<SignedIn & { password_hash: string }>(
      'SELECT name, role, password_hash FROM users WHERE name = $1',
      [name],
    );
    const [user] = rows;
    // A name that nobody has takes as long as a wrong password.
    const matches = await passwordMatches(password, user?.password_hash ?? (await hashPassword('nobody')));
    if (!user || !matches) throw new HttpProblem(401, 'Not signed in', 'Name and password do not match.');
    await new Promise<void>((done, fail) =>
      request.session.regenerate((error) => (error ? fail(error as Error) : done())),
    );
    request.session.user = { name: user.name, role: user.role };
    response.json(request.session.user);
  });
  router.delete('/', (request, response, next) => {
    request.session.destroy((error) => (error ? next(error) : response.status(204).end()));
  });
  return router;
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
      `INSERT INTO users VALUES ($1, $2, $3)
       ON CONFLICT (name) DO UPDATE SET password_hash = EXCLUDED.password_hash, role = EXCLUDED.role`,
      [name, await hashPassword(password), role],
    );
  }
}
