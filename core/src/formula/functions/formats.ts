import { format, isValidFormat } from 'numfmt';
import { Temporal } from 'temporal-polyfill';
import { decodeAny } from '../decode';
import { FormulaError } from '../error';
import { any, decimal, text } from '../type';
import { Exact, isDate, isInstant, isList, isNumberValue, settleNumber, type Value } from '../value';
import type { Json } from '../../model/json';
import { parseJson, printJson } from '../../model/jsonText';
import { readPointer } from '../../formats/jsonPointer';
import { limits } from '../limits';
import { formatDecimal } from '../formatDecimal';
import { toJson } from '../toJson';
import { jsonLength } from '../jsonLength';
import { boundedText, tooLong } from './bounded';
import { anyParam, define, optional, textParam } from './define';

/** Day 0 of the serial numbers by which spreadsheet formats count days (ODF 1.3 part 4, 4.3.2). */
const dayZero = Temporal.PlainDate.from('1899-12-30');
const secondsOfDay = 86_400;

function serialOf(date: Temporal.PlainDate): number {
  return dayZero.until(date).days;
}

/** Returns the number that a spreadsheet format shows for a value, or why there is none. */
function shownNumber(value: Value, zone: string): number | FormulaError {
  if (isDate(value)) return serialOf(value);
  if (isInstant(value)) {
    try {
      const local = value.toZonedDateTimeISO(zone).toPlainDateTime();
      return (
        serialOf(local.toPlainDate()) + (local.hour * 3600 + local.minute * 60 + local.second) / secondsOfDay
      );
    } catch {
      return new FormulaError('value', `“${zone}” is not a time zone.`);
    }
  }
  if (!isNumberValue(value)) return new FormulaError('type', 'TEXT takes a number, a date or a date-time.');
  return new Exact(value).precision() <= 15
    ? new Exact(value).toNumber()
    : new FormulaError('limit', 'A format of this kind shows 15 digits at most; the number has more.');
}

export const formatFunctions = [
  define({
    name: 'TEXT',
    family: 'formats',
    meaning:
      'A number, date or date-time written by a format such as "#,##0.00" or "dd/mm/yyyy hh:mm"; a zone can be given for date-times.',
    params: [anyParam('value'), textParam('format'), optional(textParam('zone'))],
    result: text,
    examples: [
      { formula: 'TEXT(1234.5, "#,##0.00")', gives: '"1,234.50"' },
      { formula: 'TEXT(DATE(2026, 3, 9), "dd/mm/yyyy")', gives: '"09/03/2026"' },
    ],
    source: 'ODF 1.3 part 4, 6.20.23 TEXT; format codes of ECMA-376, by the package numfmt',
    call: ([value, code, zone = 'UTC']) => {
      const known = code.length <= 200 && isValidFormat(code);
      if (!known)
        return new FormulaError('value', `“${code}” is not a format such as "0.00" or "dd/mm/yyyy".`);
      const exact = isNumberValue(value) ? formatDecimal(code, new Exact(value)) : undefined;
      if (exact !== undefined) return boundedText(exact);
      const number = shownNumber(value, zone);
      return number instanceof FormulaError ? number : boundedText(format(code, number));
    },
  }),
  define({
    name: 'VALUE',
    family: 'formats',
    meaning: 'The number that a text of plain digits tells, with a point before the decimals.',
    params: [textParam('text')],
    result: decimal,
    examples: [
      { formula: 'VALUE("12.50") + 1', gives: '13.5' },
      { formula: 'VALUE("twelve")', gives: 'error: value' },
    ],
    source: 'ODF 1.3 part 4, 6.13.34 VALUE, for plain digits',
    call: ([value]) => readNumber(value, '.', ''),
  }),
  define({
    name: 'NUMBERVALUE',
    family: 'formats',
    meaning:
      'The number that a text tells, with the decimal mark and the group mark that it is written with.',
    params: [textParam('text'), textParam('decimal mark'), optional(textParam('group mark'))],
    result: decimal,
    examples: [
      { formula: 'NUMBERVALUE("1.234,50", ",", ".")', gives: '1234.5' },
      { formula: 'NUMBERVALUE("1,5", ".")', gives: 'error: value' },
    ],
    source: 'ODF 1.3 part 4, 6.13.24 NUMBERVALUE',
    call: ([value, point, group = '']) => readNumber(value, point, group),
  }),
  define({
    name: 'AT',
    family: 'formats',
    meaning: 'What a JSON Pointer names inside an object or list; blank when there is nothing.',
    params: [anyParam('value'), textParam('pointer')],
    result: any,
    examples: [
      { formula: 'AT(address, "/town")', gives: '"Northport"' },
      { formula: 'AT(PARSEJSON("{""crates"": [4, 7]}"), "/crates/1")', gives: '7' },
    ],
    source: 'RFC 6901 JSON Pointer',
    call: ([value, pointer]) => {
      if (pointer !== '' && !pointer.startsWith('/')) {
        return new FormulaError('value', `“${pointer}” is not a JSON Pointer; it begins with “/”.`);
      }
      const found = readPointer(toJson(value), pointer) as Json | undefined;
      return found === undefined ? null : decodeAny(found);
    },
  }),
  define({
    name: 'PARSEJSON',
    family: 'formats',
    meaning: 'The value that a JSON text tells; use AT to take parts of it.',
    params: [textParam('text')],
    result: any,
    examples: [
      { formula: 'PARSEJSON("[1, 2]")', gives: '{1, 2}' },
      { formula: 'PARSEJSON("{")', gives: 'error: value' },
    ],
    source: 'RFC 8259 JSON',
    call: ([value]) => {
      try {
        const json = decodeAny(parseJson(value));
        return isList(json) && json.length > limits.items
          ? new FormulaError('limit', 'The list in the text is too long.')
          : json;
      } catch {
        return new FormulaError('value', 'The text is not JSON.');
      }
    },
  }),
  define({
    name: 'JSONTEXT',
    family: 'formats',
    meaning: 'A value as JSON text.',
    params: [anyParam('value')],
    result: text,
    examples: [
      { formula: 'JSONTEXT({"a", "b"})', gives: '"[""a"",""b""]"' },
      { formula: 'JSONTEXT(TRUE)', gives: '"true"' },
    ],
    source: 'RFC 8259 JSON',
    call: ([value]) =>
      jsonLength(value, limits.text) > limits.text ? tooLong() : boundedText(printJson(toJson(value))),
  }),
];

function readNumber(value: string, point: string, group: string): Value {
  const bad = new FormulaError('value', `“${value}” is not a number written so.`);
  if ([...point].length !== 1 || point === group) return bad;
  const plain = (group === '' ? value.trim() : value.trim().replaceAll(group, '')).replace(point, '.');
  // A point that is neither mark would be read as one.
  if (point !== '.' && group !== '.' && value.includes('.')) return bad;
  return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(plain) && plain.length <= 60 ? settleNumber(new Exact(plain)) : bad;
}
