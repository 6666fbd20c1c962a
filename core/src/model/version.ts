import { Temporal } from 'temporal-polyfill';
import { isoInstant } from './isoDate';
import type { Json } from './json';
import { scalarText } from './jsonText';

/** Numbers from here on are times: microseconds since 1970, of the year 1973 and later. */
const firstTime = 1e14;

/**
 * Returns a version that a system counts, or the time of the last change that it keeps, as a number that grows: a count as it is, a time
 * as microseconds since 1970. Undefined for what has no order, such as a hash, and for counts too long to be told apart as numbers.
 */
export function versionNumber(value: Json | undefined): number | undefined {
  if (value === undefined || value === null) return undefined;
  const text = scalarText(value).trim();
  if (/^\d+$/.test(text)) {
    const number = Number(text);
    return Number.isSafeInteger(number) ? number : undefined;
  }
  if (!/^\d{4}-\d\d-\d\d[T ]/.test(text)) return undefined;
  try {
    return Number(isoInstant(text).epochNanoseconds / 1000n);
  } catch {
    // No instant: a date-time without a zone, say, has no order among instants.
    return undefined;
  }
}

/** Returns a version as a sentence tells it. */
export function versionText(version: number): string {
  return version < firstTime
    ? `version ${version}`
    : `the state of ${Temporal.Instant.fromEpochNanoseconds(BigInt(version) * 1000n).toString()}`;
}
