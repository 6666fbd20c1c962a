import type { Request, RequestHandler } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import type { Pool } from '../db/pool';
import { TryLater } from './problem';

/**
 * Lets a number of requests through in a minute, of each person or, where nobody is signed in, of each address. Those beyond are asked to
 * come later.
 */
export function atMostInMinute(
  most: number,
  keyOf: (request: Request) => string = addressOf,
): RequestHandler {
  return rateLimit({
    windowMs: 60_000,
    limit: most,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    keyGenerator: keyOf,
    handler: (_request, _response, next) => {
      next(
        new TryLater(
          60,
          429,
          'Too many requests',
          `More than ${most} of these came in a minute. Try again in the next one.`,
        ),
      );
    },
  });
}

/** A limit that all processes count together. */
interface SharedLimit {
  /** What it is counted under: each name has numbers of its own. */
  readonly name: string;
  readonly most: number;
  readonly keyOf: (request: Request) => string;
}

/**
 * The same, counted by all processes together in the database: for what costs more than a statement does. While the database is away nothing
 * is counted, and what is asked for is answered as it is without one.
 */
export function atMostInMinuteOfAll(pool: Pool, { name, most, keyOf }: SharedLimit): RequestHandler {
  const limit = new RateLimiterPostgres({
    storeClient: pool,
    storeType: 'pool',
    tableName: 'attempts',
    tableCreated: true,
    keyPrefix: name,
    points: most,
    duration: 60,
  });
  return (request, _response, next) => {
    limit.consume(keyOf(request).slice(0, 200)).then(
      () => next(),
      (thrown: unknown) => next(thrown instanceof RateLimiterRes ? tooMany(most, thrown) : thrown),
    );
  };
}

function tooMany(most: number, { msBeforeNext }: RateLimiterRes): TryLater {
  const seconds = Math.max(1, Math.ceil(msBeforeNext / 1000));
  return new TryLater(
    seconds,
    429,
    'Too many requests',
    `More than ${most} of these came in a minute. Try again in ${seconds} seconds.`,
  );
}

/** The address of a request; of one of IPv6 the network, of which a household has all addresses. */
export function addressOf({ ip = '' }: Request): string {
  return ipKeyGenerator(ip);
}
