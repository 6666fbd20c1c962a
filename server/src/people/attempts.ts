import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import type { Pool } from '../db/pool';
import { TryLater } from '../http/problem';

/** Who tries to sign in, and from where. */
export interface Attempt {
  readonly name: string;
  readonly from: string;
}

/**
 * Counts attempts to sign in that failed: those of an account from one address, those of an account from anywhere, those of one address
 * for any account. Whoever has the password is kept out by others only when these ask from a hundred places.
 */
export class Attempts {
  private readonly limits;

  constructor(pool: Pool) {
    const limit = (keyPrefix: string, points: number, duration: number) =>
      new RateLimiterPostgres({
        storeClient: pool,
        storeType: 'pool',
        tableName: 'attempts',
        tableCreated: true,
        keyPrefix,
        points,
        duration,
      });
    const minutes = 60;
    this.limits = [
      {
        limit: limit('both', 10, 15 * minutes),
        keyOf: ({ name, from }: Attempt) => `${name.slice(0, 80)} ${from}`,
      },
      { limit: limit('account', 100, 60 * minutes), keyOf: ({ name }: Attempt) => name.slice(0, 80) },
      { limit: limit('address', 50, 15 * minutes), keyOf: ({ from }: Attempt) => from },
    ];
  }

  /** Counts an attempt before it is looked at, so that many at once are counted too. Throws a problem that says when to try again. */
  async begin(attempt: Attempt): Promise<void> {
    for (const { limit, keyOf } of this.limits) {
      await limit.consume(keyOf(attempt)).catch((thrown: unknown) => {
        throw thrown instanceof RateLimiterRes ? tooMany(thrown) : thrown;
      });
    }
  }

  /** Forgets an attempt that did not fail, and those of this account from this address before it. */
  async passed(attempt: Attempt): Promise<void> {
    const [both, ...others] = this.limits;
    await both?.limit.delete(both.keyOf(attempt));
    for (const { limit, keyOf } of others) await limit.reward(keyOf(attempt), 1);
  }
}

function tooMany({ msBeforeNext }: RateLimiterRes): TryLater {
  const seconds = Math.max(1, Math.ceil(msBeforeNext / 1000));
  const wait = seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`;
  return new TryLater(seconds, 429, 'Too many attempts', `That was tried too often. Try again in ${wait}.`);
}
