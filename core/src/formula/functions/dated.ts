import type { Temporal } from 'temporal-polyfill';
import { FormulaError } from '../error';
import type { Value } from '../value';

/** Temporal throws for dates that do not exist and for unknown zones; here that is a value of the formula. */
export function dated(make: () => Value, problem: string): Value {
  try {
    return make();
  } catch {
    return new FormulaError('value', problem);
  }
}

/** Returns what a moment is by the clocks of a zone. */
export function inZone(
  instant: Temporal.Instant,
  zone: string,
  read: (zoned: Temporal.ZonedDateTime) => Value,
): Value {
  return dated(() => read(instant.toZonedDateTimeISO(zone)), `“${zone}” is not a time zone.`);
}

/** Returns the moment at which the clocks of a zone show a time. */
export function onClocks(local: Temporal.PlainDateTime, zone: string): Value {
  return dated(() => local.toZonedDateTime(zone).toInstant(), `“${zone}” is not a time zone.`);
}
