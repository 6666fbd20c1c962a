import { Temporal } from 'temporal-polyfill';
import type { Schedule } from './trigger';

/** Returns whether a schedule is due at a minute: by the clock and the day of its zone. */
export function isDue({ at, zone, days }: Schedule, instant: string): boolean {
  const here = Temporal.Instant.from(instant).toZonedDateTimeISO(zone);
  const clock = `${String(here.hour).padStart(2, '0')}:${String(here.minute).padStart(2, '0')}`;
  return clock === at && (days.length === 0 || days.includes(here.dayOfWeek));
}

/** Returns whether a text names a zone of the IANA database. */
export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    // The constructor throws a RangeError for a zone that is not known; there is no other way to ask.
    return false;
  }
}

/** A stretch of every day, by the clock of a zone; it may go over midnight. */
export interface QuietHours {
  readonly from: string;
  readonly to: string;
  readonly zone: string;
}

/** Returns whether an instant is in a stretch of the day: from its first minute on, and no more at its last. */
export function quietNow({ from, to, zone }: QuietHours, instant: string): boolean {
  const here = Temporal.Instant.from(instant).toZonedDateTimeISO(zone);
  const clock = `${String(here.hour).padStart(2, '0')}:${String(here.minute).padStart(2, '0')}`;
  return from <= to ? from <= clock && clock < to : clock >= from || clock < to;
}
