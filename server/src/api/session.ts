import { Router, type Request } from 'express';
import Joi from 'joi';
import {
  allRights,
  jsonDifferences,
  readingForms,
  type AuditEntry,
  type Habits,
  type InvitationShown,
  type Right,
  type SecondFactorBegun,
  type SignedIn,
  type SignInAnswer,
  type TokenMade,
} from '@vast-knot/core';
import { append } from '../audit/chain';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { atMostInMinute } from '../http/limits';
import { HttpProblem, parsed } from '../http/problem';
import { Attempts } from '../people/attempts';
import { readEnvironment } from '../people/environment';
import { shownOf, useInvitation } from '../people/invitations';
import { endSession, readSessions } from '../people/openSessions';
import { hashPassword, isFormer, passwordMatches, passwordProblem } from '../people/passwords';
import {
  keepCodes,
  keepPassword,
  ofPerson,
  readPerson,
  readProof,
  signOutEverywhere,
  useCode,
  type Proof,
} from '../people/people';
import { newSecret, stepOf } from '../people/secondFactor';
import { askingOf, renewed } from '../people/session';
import { endToken, makeToken, readTokens } from '../people/tokens';
import { whoOf } from './acting';
import { uuidOf } from './params';

const password = Joi.string().max(200);
const code = Joi.string().pattern(/^\d{6}$/, 'six digits');
const signInBody = Joi.object<{ name: string; password: string }>({
  name: Joi.string().max(80).required(),
  password: password.required(),
});
const codeBody = Joi.object<{ code: string }>({ code: code.required() });
const passwordBody = Joi.object<{ password: string }>({ password: password.required() });
const newPasswordBody = Joi.object<{ now: string; next: string }>({
  now: password.required(),
  next: Joi.string().required(),
});
const profileBody = Joi.object<{ fullName: string; mail: string }>({
  fullName: Joi.string().allow('').max(120).required(),
  mail: Joi.string().allow('').email({ tlds: false }).max(200).required(),
});
const tokenBody = Joi.object<{ name: string; rights: Right[]; days: number }>({
  name: Joi.string().trim().max(80).required(),
  rights: Joi.array()
    .items(Joi.valid(...allRights))
    .min(1)
    .unique()
    .required(),
  days: Joi.number().integer().min(1).max(366).required(),
});
const linkBody = Joi.object<{ secret: string }>({ secret: Joi.string().max(100).required() });
const joiningBody = Joi.object<{ secret: string; password: string; fullName: string }>({
  secret: Joi.string().max(100).required(),
  password: Joi.string().required(),
  fullName: Joi.string().allow('').max(120).default(''),
});
const habitsSchema = Joi.object<Habits>({
  zone: Joi.string().valid(...Intl.supportedValuesOf('timeZone'), 'UTC'),
  form: Joi.valid(...readingForms),
  visited: Joi.boolean(),
});

/** What is written down of what a person did about themselves; what is not said is as usual. */
type Noted = Pick<AuditEntry, 'what'> & Partial<Omit<AuditEntry, 'at' | 'person' | 'from'>>;

/** For so long after the password a code is taken. */
const halfwayMs = 5 * 60_000;

/** Who is signed in and how, and their own page: the only addresses that want no right. */
export function sessionRoutes(pool: Pool, seal: Seal): Router {
  const router = Router();
  const attempts = new Attempts(pool);
  // What costs much to compute, or can be tried, is bounded by address before anything is looked at.
  const limit = atMostInMinute(120);

  router.get('/', async (request, response) => {
    response.json(await signedIn(pool, askingOf(request).name));
  });

  router.post('/', limit, async (request, response) => {
    const { name, password } = parsed(signInBody, request.body);
    const attempt = { name, from: request.ip ?? '' };
    await attempts.begin(attempt);
    const proof = await readProof(pool, name);
    const matches = await passwordMatches(password, proof?.passwordHash);
    if (!proof || !matches) {
      // A name that nobody has may be a password that was typed into the wrong field.
      await note(request, proof ? name : '', {
        what: 'could not sign in',
        result: 'refused',
        because: proof ? 'Name and password do not match.' : 'Nobody of this name may sign in.',
      });
      throw new HttpProblem(401, 'Not signed in', 'Name and password do not match.');
    }
    if (isFormer(proof.passwordHash))
      await pool.query('UPDATE people SET password_hash = $2 WHERE name = $1', [
        name,
        await hashPassword(password),
      ]);
    let answer: SignInAnswer;
    if (proof.codeSecret) {
      await renewed(request);
      request.session.halfway = { name, at: Date.now() };
      answer = { wants: 'code' };
    } else {
      await attempts.passed(attempt);
      answer = await begin(pool, request, name);
      await note(request, name, { what: 'signed in' });
    }
    response.json(answer);
  });

  router.post('/code', limit, async (request, response) => {
    const given = parsed(codeBody, request.body);
    const { halfway } = request.session;
    if (!halfway || Date.now() - halfway.at > halfwayMs)
      throw new HttpProblem(401, 'Not signed in', 'Give your name and password first.');
    const attempt = { name: halfway.name, from: request.ip ?? '' };
    await attempts.begin(attempt);
    const proof = await readProof(pool, halfway.name);
    if (!proof || !(await codeTaken(halfway.name, proof, given.code))) {
      await note(request, halfway.name, {
        what: 'could not sign in',
        result: 'refused',
        because: 'The code was not right.',
      });
      throw new HttpProblem(
        401,
        'Not signed in',
        'This code is not right, or was used before. Wait for the next one.',
      );
    }
    await attempts.passed(attempt);
    const entered = await begin(pool, request, halfway.name);
    await note(request, halfway.name, { what: 'signed in', because: 'With a second factor.' });
    response.json(entered);
  });

  router.delete('/', async (request, response, next) => {
    if (request.person) await note(request, request.person.name, { what: 'signed out' });
    request.session.destroy((error) => (error ? next(error) : response.status(204).end()));
  });

  router.post('/invitation', limit, async (request, response) => {
    const { kind, name, endsAt } = await shownOf(pool, parsed(linkBody, request.body).secret);
    response.json({ kind, name, endsAt } satisfies InvitationShown);
  });
  router.put('/invitation', limit, async (request, response) => {
    const joining = parsed(joiningBody, request.body);
    const { name } = await shownOf(pool, joining.secret);
    requireGoodPassword(joining.password, name, 'password');
    const { kind } = await useInvitation(pool, joining);
    await note(request, name, { what: kind === 'join' ? 'joined' : 'chose another password, by a link' });
    response.status(204).end();
  });

  router.put('/habits', async (request, response) => {
    const { name } = askingOf(request);
    const habits = parsed(habitsSchema.required(), request.body);
    await pool.query('UPDATE people SET habits = $2 WHERE name = $1', [name, habits]);
    response.json(await signedIn(pool, name));
  });
  router.put('/profile', async (request, response) => {
    const { name } = inPerson(request);
    const { fullName, mail } = parsed(profileBody, request.body);
    const before = await readPerson(pool, name);
    await pool.query('UPDATE people SET full_name = $2, mail = $3 WHERE name = $1', [name, fullName, mail]);
    const was = { fullName: before?.fullName, mail: before?.mail };
    await note(request, name, {
      what: 'changed their name or e-mail',
      ...jsonDifferences(was, { fullName, mail }),
    });
    response.json(await signedIn(pool, name));
  });
  router.put('/password', limit, async (request, response) => {
    const { name } = inPerson(request);
    const { now, next } = parsed(newPasswordBody, request.body);
    await requirePassword(request, name, now);
    requireGoodPassword(next, name, 'next');
    await keepPassword(pool, name, next);
    await signOutEverywhere(pool, name, request.sessionID);
    await note(request, name, { what: 'changed their password' });
    response.status(204).end();
  });

  router.post('/second-factor', limit, async (request, response) => {
    const { name } = inPerson(request);
    await requirePassword(request, name, parsed(passwordBody, request.body).password);
    const begun: SecondFactorBegun = newSecret(name);
    request.session.begunCodes = seal.seal(begun.secret, `begun ${ofPerson(name)}`).toString('base64');
    response.json(begun);
  });
  router.put('/second-factor', limit, async (request, response) => {
    const { name } = inPerson(request);
    const given = parsed(codeBody, request.body);
    const { begunCodes } = request.session;
    if (begunCodes === undefined) throw new HttpProblem(409, 'Not begun', 'Begin with your password.');
    await attempts.begin({ name, from: request.ip ?? '' });
    const secret = seal.open(Buffer.from(begunCodes, 'base64'), `begun ${ofPerson(name)}`);
    const step = stepOf(secret, given.code, { now: Date.now(), after: 0 });
    if (step === undefined) throw wrongCode();
    await keepCodes(pool, { name, secret: seal.seal(secret, ofPerson(name)), step });
    delete request.session.begunCodes;
    await signOutEverywhere(pool, name, request.sessionID);
    await note(request, name, { what: 'set up a second factor' });
    response.json(await signedIn(pool, name));
  });
  router.delete('/second-factor', limit, async (request, response) => {
    const { name } = inPerson(request);
    await requirePassword(request, name, parsed(passwordBody, request.body).password);
    const person = await readPerson(pool, name);
    if (person?.wantsSecondFactor === true)
      throw new HttpProblem(409, 'Needed', `A ${person.role.name.toLowerCase()} has a second factor here.`);
    await keepCodes(pool, { name, secret: null });
    await note(request, name, { what: 'took away their second factor' });
    response.json(await signedIn(pool, name));
  });

  router.get('/sessions', async (request, response) => {
    response.json(await readSessions(pool, { name: inPerson(request).name, here: request.sessionID }));
  });
  router.delete('/sessions', async (request, response) => {
    const { name } = inPerson(request);
    await signOutEverywhere(pool, name, request.sessionID);
    await note(request, name, { what: 'signed out everywhere else' });
    response.status(204).end();
  });
  router.delete('/sessions/:id', async (request, response) => {
    const { name } = inPerson(request);
    await endSession(pool, name, request.params.id);
    await note(request, name, { what: 'signed out another browser' });
    response.status(204).end();
  });

  router.get('/tokens', async (request, response) => {
    response.json(await readTokens(pool, inPerson(request).name));
  });
  router.post('/tokens', limit, async (request, response) => {
    const person = inPerson(request);
    const { name, rights, days } = parsed(tokenBody, request.body);
    const beyond = rights.find((right) => !person.rights.has(right));
    if (beyond !== undefined || person.mustHaveSecondFactor)
      throw new HttpProblem(403, 'Not allowed', 'A token may do what you may, and no more.');
    const made: TokenMade = await makeToken(pool, { person: person.name, name, rights, days });
    const { endsAt } = made;
    await note(request, person.name, {
      what: 'made a token',
      kind: 'token',
      key: made.id,
      name,
      ...jsonDifferences(undefined, { name, rights: rights.join(', '), endsAt }),
    });
    response.status(201).json(made);
  });
  router.delete('/tokens/:id', async (request, response) => {
    const { name } = inPerson(request);
    const id = uuidOf(request.params.id, 'token');
    await endToken(pool, name, id);
    await note(request, name, { what: 'ended a token', kind: 'token', key: id });
    response.status(204).end();
  });
  return router;

  /** Writes down what a person did about themselves. */
  function note(request: Request, person: string, entry: Noted): Promise<void> {
    const { more = 0, ...said } = entry;
    return append(pool, {
      ...whoOf(request),
      person: person.slice(0, 80),
      kind: 'person',
      key: person.slice(0, 80),
      result: 'done',
      changes: [],
      ...said,
      ...(more > 0 && { more }),
    });
  }

  /** Throws a problem unless a person gave their own password, counted as an attempt to sign in. */
  async function requirePassword(request: Request, name: string, password: string): Promise<void> {
    const attempt = { name, from: request.ip ?? '' };
    await attempts.begin(attempt);
    const proof = await readProof(pool, name);
    if (!(await passwordMatches(password, proof?.passwordHash)))
      throw new HttpProblem(422, 'Not valid', 'This is not your password.', [
        { at: 'password', message: 'This is not your password' },
      ]);
    await attempts.passed(attempt);
  }

  async function codeTaken(name: string, { codeSecret, codeStep }: Proof, code: string): Promise<boolean> {
    if (!codeSecret) return false;
    const step = stepOf(seal.open(codeSecret, ofPerson(name)), code, { now: Date.now(), after: codeStep });
    return step !== undefined && (await useCode(pool, name, step));
  }
}

const wrongCode = () =>
  new HttpProblem(422, 'Not valid', 'This code is not right. Is the clock of your device right?', [
    { at: 'code', message: 'This code is not right' },
  ]);

function requireGoodPassword(password: string, name: string, at: string): void {
  const message = passwordProblem(password, name);
  if (message !== undefined) throw new HttpProblem(422, 'Not valid', message, [{ at, message }]);
}

/** Returns who asks. Throws a problem where that is nobody, or a program: what is a person's own they do themselves. */
function inPerson(request: Request) {
  const person = askingOf(request);
  if (person.token !== undefined)
    throw new HttpProblem(403, 'Not allowed', 'A program cannot do this for somebody. Sign in yourself.');
  return person;
}

/** Begins the session of whoever proved who they are. */
async function begin(pool: Pool, request: Request, name: string): Promise<SignedIn> {
  await renewed(request);
  const { session } = request;
  session.user = { name };
  session.since = Date.now();
  session.from = request.ip ?? '';
  session.agent = (request.get('user-agent') ?? '').slice(0, 300);
  return signedIn(pool, name);
}

async function signedIn(pool: Pool, name: string): Promise<SignedIn> {
  const [person, environment] = await Promise.all([readPerson(pool, name), readEnvironment(pool)]);
  if (!person) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
  const { wantsSecondFactor, ...known } = person;
  return { ...known, mustHaveSecondFactor: wantsSecondFactor && !person.secondFactor, environment };
}
