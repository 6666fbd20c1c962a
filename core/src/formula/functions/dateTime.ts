import { Temporal } from 'temporal-polyfill';
import { FormulaError } from '../error';
import { date, datetime, integer } from '../type';
import type { Value } from '../value';
import { dateParam, define, integerParam, optional, textParam } from './define';

/** Temporal throws for dates that do not exist and for unknown zones; here that is a value of the formula. */
function dated(make: () => Value, problem: string): Value {
  try {
    return make();
  } catch {
    return new FormulaError('value', problem);
  }
}

export const dateTimeFunctions = [
  define({
    name: 'DATE',
    family: 'date and time',
    meaning: 'The date of a year, month and day; months and days beyond the end run on into the next.',
    params: [integerParam('year'), integerParam('month'), integerParam('day')],
    result: date,
    examples: [
      { formula: 'DATE(2026, 14, 1)', gives: 'DATE(2027, 2, 1)' },
      { formula: 'DATE(2028, 3, 0)', gives: 'DATE(2028, 2, 29)' },
    ],
    source: 'ODF 1.3 part 4, 6.10.2 DATE',
    call: ([year, month, day]) =>
      dated(
        () => new Temporal.PlainDate(year, 1, 1).add({ months: month - 1 }).add({ days: day - 1 }),
        'This is not a date.',
      ),
  }),
  define({
    name: 'YEAR',
    family: 'date and time',
    meaning: 'The year of a date.',
    params: [dateParam('date')],
    result: integer,
    examples: [
      { formula: 'YEAR(DATE(2026, 3, 9))', gives: '2026' },
      { formula: 'YEAR(DATE(1999, 12, 31))', gives: '1999' },
    ],
    source: 'ODF 1.3 part 4, 6.10.23 YEAR',
    call: ([value]) => value.year,
  }),
  define({
    name: 'MONTH',
    family: 'date and time',
    meaning: 'The month of a date, 1 to 12.',
    params: [dateParam('date')],
    result: integer,
    examples: [
      { formula: 'MONTH(DATE(2026, 3, 9))', gives: '3' },
      { formula: 'MONTH(DATE(1999, 12, 31))', gives: '12' },
    ],
    source: 'ODF 1.3 part 4, 6.10.13 MONTH',
    call: ([value]) => value.month,
  }),
  define({
    name: 'DAY',
    family: 'date and time',
    meaning: 'The day of the month of a date.',
    params: [dateParam('date')],
    result: integer,
    examples: [
      { formula: 'DAY(DATE(2026, 3, 9))', gives: '9' },
      { formula: 'DAY(DATE(1999, 12, 31))', gives: '31' },
    ],
    source: 'ODF 1.3 part 4, 6.10.5 DAY',
    call: ([value]) => value.day,
  }),
  define({
    name: 'EDATE',
    family: 'date and time',
    meaning:
      'The date so many months later, or earlier; a day that the month does not have becomes its last.',
    params: [dateParam('date'), integerParam('months')],
    result: date,
    examples: [
      { formula: 'EDATE(DATE(2026, 1, 31), 1)', gives: 'DATE(2026, 2, 28)' },
      { formula: 'EDATE(DATE(2026, 3, 15), -3)', gives: 'DATE(2025, 12, 15)' },
    ],
    source: 'ODF 1.3 part 4, 6.10.7 EDATE',
    call: ([value, months]) => dated(() => value.add({ months }), 'The date is out of range.'),
  }),
  define({
    name: 'NOW',
    family: 'date and time',
    meaning: 'The instant of the change event, so that a replay gives the same result next year.',
    params: [],
    result: datetime,
    examples: [
      { formula: 'NOW() = event.time', gives: 'TRUE' },
      { formula: 'ISBLANK(NOW())', gives: 'FALSE' },
    ],
    source: 'name from ODF 1.3 part 4, 6.10.15 NOW; the instant is our own',
    call: (_none, env) => env.event.time,
  }),
  define({
    name: 'TODAY',
    family: 'date and time',
    meaning: 'The date of the change event in a zone; UTC, when none is given.',
    params: [optional(textParam('zone'))],
    result: date,
    examples: [
      { formula: 'TODAY()', gives: 'DATE(2026, 3, 9)' },
      { formula: 'TODAY("Pacific/Auckland")', gives: 'DATE(2026, 3, 10)' },
    ],
    source: 'name from ODF 1.3 part 4, 6.10.19 TODAY; zone from the IANA data base',
    call: ([zone = 'UTC'], env) =>
      dated(() => env.event.time.toZonedDateTimeISO(zone).toPlainDate(), `“${zone}” is not a time zone.`),
  }),
];
