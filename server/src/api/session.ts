import { Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import Joi from 'joi';
import { roles, type SignedIn } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { hashPassword, passwordMatches } from '../http/passwords';
import { HttpProblem, parsed } from '../http/problem';
import type { Person } from '../http/session';

const signIn = Joi.object<{ name: string; password: string }>({
  name: Joi.string().max(80).required(),
  password: Joi.string().max(200).required(),
});

/** Sign in, sign out, and who is signed in: the only addresses that want no right. */
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
    const { user } = request.session;
    if (!user) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
    response.json(signedIn(user));
  });
  router.post('/', limit, async (request, response) => {
    const { name, password } = parsed(signIn, request.body);
    const { rows } = await pool.query<Person & { password_hash: string }>(
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
    response.json(signedIn(request.session.user));
  });
  router.delete('/', (request, response, next) => {
    request.session.destroy((error) => (error ? next(error) : response.status(204).end()));
  });
  return router;
}

function signedIn({ name, role }: Person): SignedIn {
  return { name, role, rights: roles[role] };
}
