/** Dates as ISO 8601 tells them, clocks of twelve hours, and the months between dates. */
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { sameValue } from '../../model/equal';
import { decoderFor } from '../decode';
import { toText } from '../value';
import { give, shown } from './testGive';

const two = (number: number) => String(number).padStart(2, '0');
const days = fc
  .integer({ min: -60_000, max: 60_000 })
  .map((n) => new Temporal.PlainDate(1970, 1, 1).add({ days: n }));

describe('ISO 8601', () => {
  // ISO 8601-1, 4.2 and 5.2: the twelfth of April 1985 in its forms; week dates of years’ ends from memory.
  test.each([
    ['1985-04-12', '1985-04-12'],
    ['19850412', '1985-04-12'],
    ['1985-102', '1985-04-12'],
    ['1985102', '1985-04-12'],
    ['1985-W15-5', '1985-04-12'],
    ['1985W155', '1985-04-12'],
    ['2008-W01-1', '2007-12-31'],
    ['2009-W53-7', '2010-01-03'],
    ['2028-366', '2028-12-31'],
    ['2026-366', 'error: value'],
    ['2026-000', 'error: value'],
    ['2025-W53-1', 'error: value'],
    ['2026-W11-8', 'error: value'],
    ['2026-W11', 'error: value'],
    ['2026-W111', 'error: value'],
  ])('%s is %s', (text, date) => expect(shown(`DATEVALUE("${text}")`)).toBe(date));

  test('one date told in five ways is one value, to formulas and to the change detector', () => {
    fc.assert(
      fc.property(days, (date) => {
        const week = `${date.yearOfWeek}-W${two(date.weekOfYear ?? 0)}-${date.dayOfWeek}`;
        const ordinal = `${date.year}-${String(date.dayOfYear).padStart(3, '0')}`;
        const field = { name: 'day', label: 'Day', type: 'date' } as const;
        for (const told of [
          week,
          ordinal,
          week.replace(/-/g, ''),
          ordinal.replace('-', ''),
          `${week}T00:00`,
        ]) {
          expect(toText(decoderFor(field)(told))).toBe(date.toString());
          expect(sameValue(field, told, date.toString())).toBe(true);
          expect(sameValue(field, told, date.add({ days: 1 }).toString())).toBe(false);
        }
        const moment = { name: 'at', label: 'At', type: 'datetime' } as const;
        expect(sameValue(moment, `${ordinal}T08:00Z`, `${date.toString()}T09:00+01:00`)).toBe(true);
      }),
      { seed: 11 },
    );
  });
});

describe('clocks of twelve hours', () => {
  const pattern = 'd/m/yyyy h:mm AM/PM';
  // Common practice, no source: twelve o’clock comes before one.
  test.each([
    ['9/3/2026 12:00 AM', '2026-03-09T00:00:00Z'],
    ['9/3/2026 12:59 am', '2026-03-09T00:59:00Z'],
    ['9/3/2026 1:00 a.m.', '2026-03-09T01:00:00Z'],
    ['9/3/2026 12:00 PM', '2026-03-09T12:00:00Z'],
    ['9/3/2026 11:59 p.m.', '2026-03-09T23:59:00Z'],
    ['9/3/2026 13:00 PM', 'error: value'],
    ['9/3/2026 0:30 AM', 'error: value'],
    ['9/3/2026 9:30', 'error: value'],
    ['9/3/2026 9:30 PMs', 'error: value'],
  ])('%s', (text, instant) => expect(shown(`PARSEDATETIME("${text}", "${pattern}")`)).toBe(instant));

  test('DATETIME takes both', () => {
    for (const [time, instant] of [
      ['8:30 pm', '2026-03-09T20:30:00Z'],
      ['12:05am', '2026-03-09T00:05:00Z'],
      ['20:30', '2026-03-09T20:30:00Z'],
      ['8:30', '2026-03-09T08:30:00Z'],
      ['20:30 pm', 'error: value'],
    ] as const)
      expect(shown(`DATETIME(DATE(2026, 3, 9), "${time}")`)).toBe(instant);
  });

  test('what TEXT writes is read back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1439 }), (minutes) => {
        const moment = `ADDTIME(DATETIME(DATE(2026, 3, 9), "00:00"), ${minutes}, "minutes")`;
        expect(shown(`PARSEDATETIME(TEXT(${moment}, "${pattern}"), "${pattern}") = ${moment}`)).toBe('TRUE');
      }),
      { seed: 12 },
    );
  });
});

describe('months between dates', () => {
  // ODF 1.3 part 4, 6.10.3 DATEDIF: its table of units over one pair of dates.
  test.each([
    ['y', 3],
    ['m', 43],
    ['d', 1308],
    ['md', 0],
    ['ym', 7],
    ['yd', 212],
  ])('%s', (unit, count) =>
    expect(give(`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "${unit}")`)).toBe(count),
  );

  test('a month is whole on its day and not before, also where the next month is shorter', () => {
    expect(give('DATEDIF(DATE(2026, 1, 30), DATE(2026, 2, 28), "m")')).toBe(0);
    expect(give('DATEDIF(DATE(2026, 1, 31), DATE(2026, 3, 1), "m")')).toBe(1);
    expect(give('DATEDIF(DATE(2026, 1, 28), DATE(2026, 2, 28), "m")')).toBe(1);
  });

  test('a second count agrees: Temporal, to the same day of the month', () => {
    fc.assert(
      fc.property(days, days, (a, b) => {
        const [start, end] = Temporal.PlainDate.compare(a, b) > 0 ? [b, a] : [a, b];
        const dates = `DATEVALUE("${start.toString()}"), DATEVALUE("${end.toString()}")`;
        expect(give(`DATEDIF(${dates}, "m")`)).toBe(start.until(end, { largestUnit: 'month' }).months);
        expect(give(`DATEDIF(${dates}, "y")`)).toBe(start.until(end, { largestUnit: 'year' }).years);
      }),
      { seed: 13 },
    );
  });
});
