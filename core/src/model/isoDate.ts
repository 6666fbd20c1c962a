import { Temporal } from 'temporal-polyfill';

/** A week date (`2026-W11-1`) or an ordinal date (`2026-068`), in the extended and in the basic form of ISO 8601-1, 5.2.3 and 5.2.4. */
const weekDate = /^(\d{4})(?:-W(\d\d)-([1-7])|W(\d\d)([1-7]))(?=T|$)/;
const ordinalDate = /^(\d{4})-?(\d{3})(?=T|$)/;

/** Returns an ISO 8601 text with its week date or ordinal date told as a calendar date; any other text as it is. */
function withCalendarDate(text: string): string {
  const week = weekDate.exec(text);
  if (week) {
    const [all, year, longWeek, longDay, shortWeek, shortDay] = week;
    const date = dateOfWeek(Number(year), Number(longWeek ?? shortWeek), Number(longDay ?? shortDay));
    return date ? date.toString() + text.slice(all.length) : text;
  }
  const ordinal = ordinalDate.exec(text);
  if (!ordinal) return text;
  const [all, year, day] = ordinal;
  const first = new Temporal.PlainDate(Number(year), 1, 1);
  return Number(day) < 1 || Number(day) > first.daysInYear
    ? text
    : first.add({ days: Number(day) - 1 }).toString() + text.slice(all.length);
}

/** Returns the date of a weekday (1 for Monday) in a week; week 1 has the fourth of January in it. Undefined for a 53rd week that a year lacks. */
function dateOfWeek(year: number, week: number, weekday: number): Temporal.PlainDate | undefined {
  const fourth = new Temporal.PlainDate(year, 1, 4);
  const date = fourth.add({ days: (week - 1) * 7 + weekday - fourth.dayOfWeek });
  return date.weekOfYear === week && date.yearOfWeek === year ? date : undefined;
}

const calendarDate = /^\d{4}-\d\d-\d\d$/;
/** Dates that were read lately, by their text: the same few stand in many records, and reading one takes long. */
const lately = new Map<string, Temporal.PlainDate>();
const mostKept = 2000;
const texts = new WeakMap<Temporal.PlainDate, string>();

/**
 * Returns the date that a text tells: a calendar date, week date or ordinal date of ISO 8601; a time of day behind it is left out.
 * Throws a RangeError for other text.
 */
export function isoDate(text: string): Temporal.PlainDate {
  const known = lately.get(text);
  if (known) return known;
  const date = readDate(text);
  if (calendarDate.test(text)) {
    if (lately.size >= mostKept) lately.clear();
    lately.set(text, date);
    texts.set(date, text);
  }
  return date;
}

/** Returns a date as `yyyy-mm-dd`. */
export function dateText(date: Temporal.PlainDate): string {
  return texts.get(date) ?? date.toString();
}

function readDate(text: string): Temporal.PlainDate {
  const calendar = withCalendarDate(text);
  return Temporal.PlainDate.from(/^\d{4}-\d\d-\d\dT/.test(calendar) ? calendar.slice(0, 10) : calendar);
}

/** Returns the instant that a text tells, its date as above, with an offset or Z. Throws a RangeError for other text. */
export function isoInstant(text: string): Temporal.Instant {
  return Temporal.Instant.from(withCalendarDate(text));
}
