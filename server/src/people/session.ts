import type { Request, RequestHandler } from 'express';
import connectPgSimple from 'connect-pg-simple';
import session from 'express-session';
import { rights, type Right } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import { noteSeen, readPerson } from './people';
import { ownerOf, tokenMark } from './tokens';

/** Who asks, and what they may with this request. */
export interface Asking {
  readonly name: string;
  readonly rights: ReadonlySet<Right>;
  /** The name of the token with which a program asks for them. */
  readonly token?: string;
  /** Their role wants a second factor that they have not: they can set it up, and nothing else. */
  readonly mustHaveSecondFactor: boolean;
}

declare module 'express-session' {
  interface SessionData {
    user: { readonly name: string };
    /** When the person signed in, in milliseconds since 1970. */
    since: number;
    /** From which address and with what they asked last. */
    from: string;
    agent: string;
    /** Whose password was right, and when: their code is still wanted. */
    halfway: { readonly name: string; readonly at: number };
    /** The sealed secret of codes that are being set up, in base64. */
    begunCodes: string;
  }
}

declare module 'express-serve-static-core' {
  interface Request {
    /** Absent for nobody. */
    person?: Asking;
  }
}

/** A session that nobody uses ends after so long, and any after `longestMs`. */
export const idleMs = 12 * 60 * 60 * 1000;
export const longestMs = 7 * 24 * 60 * 60 * 1000;

export function sessions(pool: Pool, config: Config): RequestHandler {
  const Store = connectPgSimple(session);
  const encrypted = config.publicUrl.startsWith('https:');
  return session({
    // A cookie of this name is taken from this host alone, over TLS, for all of its paths (RFC 6265bis, 4.1.3.2).
    name: encrypted ? '__Host-vast-knot' : 'vast-knot',
    secret: config.sessionSecret,
    store: new Store({ pool, tableName: 'sessions' }),
    resave: false,
    saveUninitialized: false,
    rolling: true,
    cookie: {
      httpOnly: true,
      sameSite: 'strict',
      secure: encrypted,
      path: '/',
      maxAge: idleMs,
    },
  });
}

/**
 * Reads with each request who asks and what they may by now, whatever the session or the token says: whoever was given another role has
 * that at once, and whoever was stopped is signed out. So is whoever signed in a week ago.
 */
export function whoAsks(pool: Pool): RequestHandler {
  return async (request, _response, next) => {
    const token = bearerOf(request);
    const asking =
      token === undefined ? await ofSession(pool, request) : await ofToken(pool, token, request.ip ?? '');
    if (asking) request.person = asking;
    next();
  };
}

function bearerOf(request: Request): string | undefined {
  const token = /^Bearer +(\S+)$/i.exec(request.get('authorization') ?? '')?.[1];
  return token?.startsWith(tokenMark) === true ? token : undefined;
}

async function ofToken(pool: Pool, token: string, from: string): Promise<Asking> {
  const owner = await ownerOf(pool, token, from);
  const person = owner && (await readPerson(pool, owner.person));
  if (!owner || !person)
    throw new HttpProblem(401, 'Not signed in', 'This token has ended, or never was one.');
  const { name, rights: all, wantsSecondFactor, secondFactor } = person;
  return {
    name,
    // A token lets a program do what was chosen for it, of what its person may by now.
    rights: new Set(all.filter((right) => owner.rights.includes(right))),
    token: owner.name,
    mustHaveSecondFactor: wantsSecondFactor && !secondFactor,
  };
}

async function ofSession(pool: Pool, request: Request): Promise<Asking | undefined> {
  const { user } = request.session;
  if (!user) return undefined;
  const person = await readPerson(pool, user.name);
  // Sessions of earlier versions do not say when they began.
  request.session.since ??= Date.now();
  if (!person || Date.now() - request.session.since > longestMs) {
    await renewed(request);
    return undefined;
  }
  const from = request.ip ?? '';
  if (request.session.from !== from) request.session.from = from;
  await noteSeen(pool, person.name);
  const { name, rights: all, wantsSecondFactor, secondFactor } = person;
  return { name, rights: new Set(all), mustHaveSecondFactor: wantsSecondFactor && !secondFactor };
}

/** Ends the session of a request; it goes on as that of nobody. */
export function renewed({ session }: Request): Promise<void> {
  return new Promise((done, fail) => session.regenerate((error) => (error ? fail(error as Error) : done())));
}

/** Takes changes from our own pages only: a page of another origin is refused. */
export const ownPagesOnly: RequestHandler = (request, _response, next) => {
  const reading = request.method === 'GET' || request.method === 'HEAD';
  const origin = request.get('Origin');
  // A page without an origin of its own says “null”, which is no address.
  const from = origin !== undefined && URL.canParse(origin) ? new URL(origin).host : origin;
  if (!reading && from !== undefined && from !== request.host) {
    throw new HttpProblem(403, 'Not allowed', 'Changes are taken from our own pages only.');
  }
  next();
};

/** Returns who asks. Throws a problem where that is nobody. */
export function askingOf({ person }: Pick<Request, 'person'>): Asking {
  if (!person) throw new HttpProblem(401, 'Not signed in', 'Sign in first.');
  return person;
}

/** Lets those through who are signed in and have a right. */
export function requireRight(right: Right): RequestHandler {
  return (request, _response, next) => {
    try {
      checkRight(request, right);
    } catch (thrown) {
      next(thrown);
      return;
    }
    next();
  };
}

/** Throws a problem unless whoever asks is signed in and has a right: where only what is asked for says which one it takes. */
export function checkRight(request: Pick<Request, 'person'>, right: Right): void {
  const person = askingOf(request);
  if (person.mustHaveSecondFactor)
    throw new HttpProblem(
      403,
      'Second factor wanted',
      'Your role wants a second factor. Set it up on your own page first.',
    );
  if (person.rights.has(right)) return;
  const who = person.token === undefined ? person.name : `The token ${person.token}`;
  throw new HttpProblem(403, 'Not allowed', `${who} may not ${rights[right]}.`);
}
