import { Temporal } from 'temporal-polyfill';

/** Returns the instant that a date and time without a zone is in a zone; undefined for what is no time. */
export function instantIn(zone: string, text: string): string | undefined {
  try {
    return Temporal.PlainDateTime.from(text.replace(' ', 'T')).toZonedDateTime(zone).toInstant().toString();
  } catch {
    return undefined;
  }
}

/** Returns date and time that an instant is in a zone, without naming it; undefined for what is no instant. */
export function plainTimeIn(zone: string, text: string): string | undefined {
  try {
    return Temporal.Instant.from(text).toZonedDateTimeISO(zone).toPlainDateTime().toString();
  } catch {
    return undefined;
  }
}
