import { Temporal } from 'temporal-polyfill';
import { FormulaError } from '../error';
import { date, integer } from '../type';
import { isDate, type Value } from '../value';
import { dateParam, define, integerParam, listParam, optional } from './define';

/** Days are gone through one by one: some forty years of them at most. */
const mostWorkdays = 15_000;

function tooFar(): FormulaError {
  return new FormulaError('limit', `Working days are counted over ${mostWorkdays} days at most.`);
}

function freeDays(holidays: readonly Value[]): ReadonlySet<string> {
  return new Set(holidays.filter(isDate).map(String));
}

function isWorkday(day: Temporal.PlainDate, free: ReadonlySet<string>): boolean {
  return day.dayOfWeek < 6 && !free.has(day.toString());
}
/** Days on which people work. */
export const workdayFunctions = [
  define({
    name: 'WORKDAY',
    family: 'date and time',
    meaning:
      'The date so many working days later, or earlier; Saturdays, Sundays and the given holidays do not count.',
    params: [dateParam('date'), integerParam('days'), optional(listParam('holidays'))],
    result: date,
    examples: [
      { formula: 'WORKDAY(DATE(2026, 3, 6), 1)', gives: 'DATE(2026, 3, 9)' },
      { formula: 'WORKDAY(DATE(2026, 3, 6), 2, {DATE(2026, 3, 9)})', gives: 'DATE(2026, 3, 11)' },
    ],
    source: 'ODF 1.3 part 4, 6.10.22 WORKDAY',
    call: ([value, days, holidays = []]) => {
      if (Math.abs(days) > mostWorkdays) return tooFar();
      const free = freeDays(holidays);
      const step = Math.sign(days);
      let day = value;
      for (let left = Math.abs(days); left > 0;) {
        day = day.add({ days: step });
        if (isWorkday(day, free)) left--;
      }
      return day;
    },
  }),
  define({
    name: 'NETWORKDAYS',
    family: 'date and time',
    meaning: 'How many working days lie from one date to another, both counted; holidays can be given.',
    params: [dateParam('start'), dateParam('end'), optional(listParam('holidays'))],
    result: integer,
    examples: [
      { formula: 'NETWORKDAYS(DATE(2026, 3, 6), DATE(2026, 3, 10))', gives: '3' },
      { formula: 'NETWORKDAYS(DATE(2026, 3, 10), DATE(2026, 3, 6))', gives: '-3' },
    ],
    source: 'ODF 1.3 part 4, 6.10.14 NETWORKDAYS',
    call: ([start, end, holidays = []]) => {
      const backwards = Temporal.PlainDate.compare(start, end) > 0;
      const [first, last] = backwards ? [end, start] : [start, end];
      if (first.until(last).days > mostWorkdays) return tooFar();
      const free = freeDays(holidays);
      let count = 0;
      for (let day = first; Temporal.PlainDate.compare(day, last) <= 0; day = day.add({ days: 1 })) {
        if (isWorkday(day, free)) count++;
      }
      return backwards ? -count : count;
    },
  }),
];
