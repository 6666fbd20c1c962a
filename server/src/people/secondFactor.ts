import { Secret, TOTP } from 'otpauth';
import type { SecondFactorBegun } from '@vast-knot/core';

/** A code of the step before or after is taken too: clocks differ, and typing takes time (RFC 6238, 5.2). */
const window = 1;

const codesOf = (secret: Secret, name = '') =>
  new TOTP({ issuer: 'Vast Knot', label: name, secret, algorithm: 'SHA1', digits: 6, period: 30 });

/** Returns a new secret of 160 bits for a person's codes (RFC 4226, 4, R6). */
export function newSecret(name: string): SecondFactorBegun {
  const secret = new Secret({ size: 20 });
  return { secret: secret.base32, uri: codesOf(secret, name).toString() };
}

/**
 * Returns the step of time that a code belongs to; undefined for a code that is wrong, or whose step is none after `after`, because it was
 * taken before (RFC 6238, 5.2).
 */
export function stepOf(
  secret: string,
  code: string,
  { now, after }: { readonly now: number; readonly after: number },
): number | undefined {
  const codes = codesOf(Secret.fromBase32(secret));
  const delta = codes.validate({ token: code, timestamp: now, window });
  if (delta === null) return undefined;
  const step = codes.counter({ timestamp: now }) + delta;
  return step > after ? step : undefined;
}
