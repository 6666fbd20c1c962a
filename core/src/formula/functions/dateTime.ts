import { Temporal } from 'temporal-polyfill';
import { FormulaError } from '../error';
import { date, datetime, integer } from '../type';
import { dated, inZone } from './dated';
import { dateParam, define, instantParam, integerParam, optional, textParam } from './define';

/** Returns the complete months between two dates: one is complete on its day of the month, which a shorter month may not have. */
function wholeMonths(start: Temporal.PlainDate, end: Temporal.PlainDate): number {
  return (end.year - start.year) * 12 + end.month - start.month - Number(end.day < start.day);
}

/** Dates and their parts, and the time of the event. */
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
    flow: null,
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
  define({
    name: 'HOUR',
    family: 'date and time',
    meaning: 'The hour of a date-time in a zone, 0 to 23; in UTC, when none is given.',
    params: [instantParam('date-time'), optional(textParam('zone'))],
    result: integer,
    examples: [
      { formula: 'HOUR(NOW())', gives: '22' },
      { formula: 'HOUR(NOW(), "Europe/Oslo")', gives: '23' },
    ],
    source: 'ODF 1.3 part 4, 6.10.10 HOUR; the zone is our own',
    call: ([value, zone = 'UTC']) => inZone(value, zone, (zoned) => zoned.hour),
  }),
  define({
    name: 'MINUTE',
    family: 'date and time',
    meaning: 'The minute of a date-time in a zone; in UTC, when none is given.',
    params: [instantParam('date-time'), optional(textParam('zone'))],
    result: integer,
    examples: [
      { formula: 'MINUTE(NOW())', gives: '30' },
      { formula: 'MINUTE(NOW(), "Asia/Kolkata")', gives: '0' },
    ],
    source: 'ODF 1.3 part 4, 6.10.12 MINUTE; the zone is our own',
    call: ([value, zone = 'UTC']) => inZone(value, zone, (zoned) => zoned.minute),
  }),
  define({
    name: 'SECOND',
    family: 'date and time',
    meaning: 'The second of a date-time.',
    params: [instantParam('date-time')],
    result: integer,
    examples: [
      { formula: 'SECOND(NOW())', gives: '0' },
      { formula: 'SECOND(ADDTIME(NOW(), 75, "seconds"))', gives: '15' },
    ],
    source: 'ODF 1.3 part 4, 6.10.17 SECOND',
    call: ([value]) => inZone(value, 'UTC', (zoned) => zoned.second),
  }),
  define({
    name: 'WEEKDAY',
    family: 'date and time',
    meaning:
      'The day of the week of a date: 1 for Sunday to 7; with type 2, 1 for Monday; with type 3, 0 for Monday.',
    params: [dateParam('date'), optional(integerParam('type'))],
    result: integer,
    examples: [
      { formula: 'WEEKDAY(DATE(2026, 3, 9))', gives: '2' },
      { formula: 'WEEKDAY(DATE(2026, 3, 9), 2)', gives: '1' },
    ],
    source: 'ODF 1.3 part 4, 6.10.20 WEEKDAY',
    call: ([value, type = 1]) => {
      if (type === 1) return (value.dayOfWeek % 7) + 1;
      if (type === 2) return value.dayOfWeek;
      return type === 3 ? value.dayOfWeek - 1 : new FormulaError('value', '“type” is 1, 2 or 3.');
    },
  }),
  define({
    name: 'ISOWEEKNUM',
    family: 'date and time',
    meaning: 'The number of the week that a date lies in; week 1 has the first Thursday of the year.',
    params: [dateParam('date')],
    result: integer,
    examples: [
      { formula: 'ISOWEEKNUM(DATE(2026, 1, 1))', gives: '1' },
      { formula: 'ISOWEEKNUM(DATE(2027, 1, 1))', gives: '53' },
    ],
    source: 'ODF 1.3 part 4, 6.10.11 ISOWEEKNUM; ISO 8601, 3.1.1.23',
    call: ([value]) => value.weekOfYear ?? null,
  }),
  define({
    name: 'EOMONTH',
    family: 'date and time',
    meaning: 'The last day of the month so many months later, or earlier.',
    params: [dateParam('date'), integerParam('months')],
    result: date,
    examples: [
      { formula: 'EOMONTH(DATE(2028, 1, 15), 1)', gives: 'DATE(2028, 2, 29)' },
      { formula: 'EOMONTH(DATE(2026, 3, 9), 0)', gives: 'DATE(2026, 3, 31)' },
    ],
    source: 'ODF 1.3 part 4, 6.10.8 EOMONTH',
    call: ([value, months]) =>
      dated(() => {
        const month = value.add({ months });
        return month.with({ day: month.daysInMonth });
      }, 'The date is out of range.'),
  }),
  define({
    name: 'DAYS',
    family: 'date and time',
    meaning: 'How many days lie between two dates, the later one first.',
    params: [dateParam('end'), dateParam('start')],
    result: integer,
    examples: [
      { formula: 'DAYS(DATE(2026, 3, 9), DATE(2026, 3, 1))', gives: '8' },
      { formula: 'DAYS(DATE(2024, 2, 28), DATE(2024, 3, 1))', gives: '-2' },
    ],
    source: 'ODF 1.3 part 4, 6.10.6 DAYS',
    call: ([end, start]) => start.until(end, { largestUnit: 'day' }).days,
  }),
  define({
    name: 'DATEDIF',
    family: 'date and time',
    meaning:
      'How many whole years ("y"), months ("m") or days ("d") lie between two dates, the earlier one first; "ym" gives the months beyond whole years, "md" the days beyond whole months, "yd" the days beyond whole years.',
    params: [dateParam('start'), dateParam('end'), textParam('unit')],
    result: integer,
    examples: [
      { formula: 'DATEDIF(DATE(2024, 2, 29), DATE(2026, 2, 28), "y")', gives: '1' },
      { formula: 'DATEDIF(DATE(2026, 1, 31), DATE(2026, 3, 30), "m")', gives: '1' },
    ],
    source: 'ODF 1.3 part 4, 6.10.3 DATEDIF',
    call: ([start, end, unit]) => {
      if (Temporal.PlainDate.compare(start, end) > 0) {
        return new FormulaError('value', 'The first date lies after the second.');
      }
      const months = wholeMonths(start, end);
      switch (unit.toLowerCase()) {
        case 'y':
          return Math.floor(months / 12);
        case 'm':
          return months;
        case 'd':
          return start.until(end).days;
        case 'ym':
          return months % 12;
        case 'md':
          return start.add({ months }).until(end).days;
        case 'yd':
          return start.add({ years: Math.floor(months / 12) }).until(end).days;
        default:
          return new FormulaError('value', '“unit” is "y", "m", "d", "ym", "md" or "yd".');
      }
    },
  }),
];
