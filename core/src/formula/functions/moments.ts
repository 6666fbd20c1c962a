import { isoDate } from '../../model/isoDate';
import { readByPattern, readClock } from '../datePattern';
import { FormulaError } from '../error';
import { date, datetime } from '../type';
import { dated, inZone, onClocks } from './dated';
import { dateParam, define, instantParam, integerParam, optional, textParam } from './define';

function notByPattern(value: string, pattern: string): FormulaError {
  return new FormulaError('value', `“${value}” is not a date written ${pattern}.`);
}

/** Dates and moments read from texts, and moments across zones. */
export const momentFunctions = [
  define({
    name: 'DATEVALUE',
    family: 'date and time',
    meaning:
      'The date that an ISO 8601 text tells: a calendar date, a week date such as 2026-W11-1 or an ordinal date such as 2026-068.',
    params: [textParam('text')],
    result: date,
    examples: [
      { formula: 'DATEVALUE("2026-03-09")', gives: 'DATE(2026, 3, 9)' },
      { formula: 'DATEVALUE("9/3/2026")', gives: 'error: value' },
    ],
    source: 'ODF 1.3 part 4, 6.10.4 DATEVALUE; ISO 8601 only',
    call: ([value]) => dated(() => isoDate(value.trim()), `“${value}” is not a date in ISO 8601.`),
  }),
  define({
    name: 'PARSEDATE',
    family: 'date and time',
    meaning: 'The date that a text tells by a pattern of yyyy, yy, mmmm, mmm, mm, m, dd and d.',
    params: [textParam('text'), textParam('pattern')],
    result: date,
    examples: [
      { formula: 'PARSEDATE("09/03/2026", "dd/mm/yyyy")', gives: 'DATE(2026, 3, 9)' },
      { formula: 'PARSEDATE("31 Feb 2026", "d mmm yyyy")', gives: 'error: value' },
    ],
    source: 'own; letters as in the formats of TEXT',
    call: ([value, pattern]) => readByPattern(value, pattern)?.toPlainDate() ?? notByPattern(value, pattern),
  }),
  define({
    name: 'PARSEDATETIME',
    family: 'date and time',
    meaning:
      'The date-time that a text tells by a pattern such as "dd/mm/yyyy hh:mm" or "d mmm yyyy h:mm AM/PM", on the clocks of a zone.',
    params: [textParam('text'), textParam('pattern'), optional(textParam('zone'))],
    result: datetime,
    examples: [
      {
        formula: 'PARSEDATETIME("09.03.2026 23:30", "dd.mm.yyyy hh:mm", "Europe/Oslo") = NOW()',
        gives: 'TRUE',
      },
      { formula: 'PARSEDATETIME("soon", "dd/mm/yyyy hh:mm")', gives: 'error: value' },
    ],
    source: 'own; letters as in the formats of TEXT, zone from the IANA data base',
    call: ([value, pattern, zone = 'UTC']) => {
      const local = readByPattern(value, pattern);
      return local ? onClocks(local, zone) : notByPattern(value, pattern);
    },
  }),
  define({
    name: 'DATETIME',
    family: 'date and time',
    meaning: 'The instant at which the clocks of a zone show a date and a time such as "08:30" or "8:30 pm".',
    params: [dateParam('date'), textParam('time'), optional(textParam('zone'))],
    result: datetime,
    examples: [
      { formula: 'DATETIME(DATE(2026, 3, 9), "23:30", "Europe/Oslo") = NOW()', gives: 'TRUE' },
      { formula: 'DATETIME(DATE(2026, 3, 9), "25:00")', gives: 'error: value' },
    ],
    source: 'own; a time that clocks skip or show twice is taken as RFC 5545 does',
    call: ([value, time, zone = 'UTC']) => {
      const local = readClock(time);
      return local
        ? onClocks(value.toPlainDateTime(local.toPlainTime()), zone)
        : new FormulaError('value', `“${time}” is not a time such as 08:30.`);
    },
  }),
  define({
    name: 'LOCALDATE',
    family: 'date and time',
    meaning: 'The date that calendars in a zone show at an instant.',
    params: [instantParam('date-time'), textParam('zone')],
    result: date,
    examples: [
      { formula: 'LOCALDATE(NOW(), "Pacific/Auckland")', gives: 'DATE(2026, 3, 10)' },
      { formula: 'LOCALDATE(NOW(), "UTC")', gives: 'DATE(2026, 3, 9)' },
    ],
    source: 'own; zone from the IANA data base',
    call: ([value, zone]) => inZone(value, zone, (zoned) => zoned.toPlainDate()),
  }),
  define({
    name: 'ADDTIME',
    family: 'date and time',
    meaning: 'The instant so many "hours", "minutes" or "seconds" later, or earlier.',
    params: [instantParam('date-time'), integerParam('amount'), textParam('unit')],
    result: datetime,
    examples: [
      { formula: 'HOUR(ADDTIME(NOW(), 2, "hours"))', gives: '0' },
      { formula: 'ADDTIME(NOW(), 60, "minutes") = ADDTIME(NOW(), 1, "hours")', gives: 'TRUE' },
    ],
    source: 'own',
    call: ([value, amount, unit]) =>
      unit === 'hours' || unit === 'minutes' || unit === 'seconds'
        ? dated(() => value.add({ [unit]: amount }), 'The date-time is out of range.')
        : new FormulaError('value', '“unit” is "hours", "minutes" or "seconds".'),
  }),
];
