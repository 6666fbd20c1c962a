import type { Habits, ReadingForm } from '@vast-knot/core';

/** The language whose manner of writing dates and numbers each form is; words stay English. */
const locales: Readonly<Record<ReadingForm, string>> = {
  'day first': 'en-GB',
  'month first': 'en-US',
  'figures alone': 'lt-LT',
  'points and commas': 'de-DE',
};

const browsersZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
let habits: Habits = {};

/** Has dates and numbers shown from now on as a person reads them. What is drawn already has to be drawn anew. */
export function readAs(next: Habits): void {
  habits = next;
}

/** The zone in which times are shown. */
export function zoneShown(): string {
  return habits.zone ?? browsersZone;
}

/** Returns how dates of a kind are written, for the person who reads. */
export function dateFormat(options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const locale = locales[habits.form ?? 'day first'];
  // Of a language that is not English, no names of months.
  const numeric =
    locale === 'en-GB' || locale === 'en-US' || !options.month ? {} : { month: '2-digit' as const };
  return kept(`${locale} ${zoneShown()} ${JSON.stringify(options)}`, () => {
    return new Intl.DateTimeFormat(locale, { timeZone: zoneShown(), ...options, ...numeric });
  });
}

/** Returns an instant and a number in a form, as an example of it. */
export function writtenAs(
  form: ReadingForm,
  { at, number }: { readonly at: string; readonly number: number },
): string {
  const before = habits;
  habits = { ...before, form };
  const day = { day: '2-digit', month: 'short', hour: '2-digit', minute: '2-digit' } as const;
  const text = `${dateFormat(day).format(new Date(at))} · ${digits(number)}`;
  habits = before;
  return text;
}

/** Returns a number as the person reads it: `1,234.5`, `1.234,5`. */
export function digits(number: number): string {
  return number.toLocaleString(locales[habits.form ?? 'day first']);
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** Making one takes long, and rows of lists ask for the same ones again and again. */
function kept(key: string, make: () => Intl.DateTimeFormat): Intl.DateTimeFormat {
  const known = formats.get(key) ?? make();
  formats.set(key, known);
  return known;
}
