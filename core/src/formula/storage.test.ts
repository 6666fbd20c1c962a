import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import type { Field, FieldType } from '../model/system';
import type { Json } from '../model/json';
import { decoderFor } from './decode';
import { encodeFor } from './encode';
import { FormulaError } from './error';
import { Exact, Rounded, settleNumber, toText, type Value } from './value';

const field = (type: FieldType, more: Partial<Field> = {}): Field => ({
  name: 'f',
  label: 'Field',
  type,
  ...more,
});
const read = (type: FieldType, json: Json): Value => decoderFor(field(type))(json);

describe('reading what a system stores', () => {
  test.each<[FieldType, Json, string]>([
    ['text', 'Skerry', 'Skerry'],
    ['text', 5, '5'],
    ['text', 'e\u0301', 'é'],
    ['integer', 12, '12'],
    ['integer', '12', '12'],
    ['decimal', 0.1, '0.1'],
    ['decimal', '123456789012345678901234567890.5', '123456789012345678901234567890.5'],
    ['decimal', '1e3', '1000'],
    ['boolean', true, 'TRUE'],
    ['boolean', 'false', 'FALSE'],
    ['date', '2026-03-09', '2026-03-09'],
    ['date', '2026-03-09T23:00:00Z', '2026-03-09'],
    ['datetime', '2026-03-09T23:00:00+02:00', '2026-03-09T21:00:00Z'],
    ['multichoice', ['a', 'b'], 'a, b'],
    ['multichoice', 'a', 'a'],
    ['reference', 'C-1', 'C-1'],
  ])('%s %j is %s', (type, json, text) => expect(toText(read(type, json))).toBe(text));

  test.each<[FieldType, Json]>([
    ['text', ''],
    ['text', null],
    ['integer', ''],
    ['boolean', null],
    ['date', ''],
    ['multichoice', []],
    ['object', 'not an object'],
  ])('%s %j is blank', (type, json) => expect(read(type, json)).toBeNull());

  test.each<[FieldType, Json, string]>([
    ['integer', 'twelve', '“Field” holds "twelve", which is not a number.'],
    ['decimal', '0x10', '“Field” holds "0x10", which is not a number.'],
    ['boolean', 'perhaps', '“Field” holds "perhaps", which is neither true nor false.'],
    ['date', '09/03/2026', '“Field” holds "09/03/2026", which is not a date in ISO 8601.'],
    ['date', '2026-02-30', '“Field” holds "2026-02-30", which is not a date in ISO 8601.'],
    [
      'datetime',
      '2026-03-09T23:00',
      '“Field” holds "2026-03-09T23:00", which is not a date-time with zone in ISO 8601.',
    ],
  ])('%s %j is an error that names the field and the value', (type, json, message) => {
    expect(read(type, json)).toMatchObject({ code: 'value', message });
  });
});

describe('writing what a formula gave', () => {
  const date = Temporal.PlainDate.from('2026-03-09');
  test.each<[Field, Value, Json]>([
    [field('text'), 'x', 'x'],
    [field('text'), 5, '5'],
    [field('text'), date, '2026-03-09'],
    [field('text', { maxLength: 2 }), '🚢🚢', '🚢🚢'],
    [field('text'), null, null],
    [field('text'), '', null],
    [field('integer'), 5, 5],
    [field('decimal'), settleNumber(new Exact('0.1')), 0.1],
    [field('boolean'), false, false],
    [field('date'), date, '2026-03-09'],
    [field('datetime'), Temporal.Instant.from('2026-03-09T21:00:00Z'), '2026-03-09T21:00:00Z'],
    [field('choice', { options: [{ value: 'open', label: 'Open' }] }), 'open', 'open'],
    [field('multichoice', { options: [{ value: 'a', label: 'A' }] }), ['a'], ['a']],
    [field('multichoice', { options: [{ value: 'a', label: 'A' }] }), 'a', ['a']],
  ])('%j', (target, value, json) => expect(encodeFor(target, value)).toEqual({ json }));

  test.each<[Field, Value, string]>([
    [field('text', { maxLength: 3 }), 'four', '“Field” holds 3 characters at most, and the value has 4.'],
    [field('text', { required: true }), null, '“Field” is required and would be left blank.'],
    [field('text'), ['a'], '“Field” takes text, and the formula gave a list.'],
    [field('integer'), settleNumber(new Exact('1.5')), '“Field” takes whole numbers, and the value is 1.5.'],
    [field('integer', { min: 0 }), -1, '“Field” is 0 at least, and the value is -1.'],
    [field('integer', { max: 9 }), 10, '“Field” is 9 at most, and the value is 10.'],
    [field('integer'), '5', '“Field” takes a number, and the formula gave text.'],
    [
      field('decimal'),
      settleNumber(Rounded.div(1, 3)),
      '0.3333333333333333333333333333333333 has more digits than systems keep; round it first.',
    ],
    [field('boolean'), 'yes', '“Field” takes a yes/no value, and the formula gave text.'],
    [field('date'), '2026-03-09', '“Field” takes a date, and the formula gave text.'],
    [field('datetime'), date, '“Field” takes a date-time, and the formula gave a date.'],
    [
      field('choice', { options: [{ value: 'open', label: 'Open' }] }),
      'opened',
      '“Field” has no option “opened”.',
    ],
    [
      field('multichoice', { options: [{ value: 'a', label: 'A' }] }),
      ['a', 'b'],
      '“Field” has no option “b”.',
    ],
    [field('object'), 'x', '“Field” takes an object, and the formula gave text.'],
    [field('text'), new FormulaError('value', 'It failed.'), 'It failed.'],
  ])('what does not fit is said and not written: %j', (target, value, problem) => {
    expect(encodeFor(target, value)).toEqual({ problem });
  });
});

describe('laws', () => {
  test('what was read is written back as it was', () => {
    const stored = fc.oneof(
      fc.tuple(
        fc.constant<FieldType>('text'),
        fc.string({ minLength: 1 }).map((text): Json => text.normalize('NFC')),
      ),
      fc.tuple(
        fc.constant<FieldType>('integer'),
        fc.integer().map((number): Json => number),
      ),
      fc.tuple(
        fc.constant<FieldType>('decimal'),
        fc.integer({ min: -1e9, max: 1e9 }).map((number): Json => number / 1000),
      ),
      fc.tuple(
        fc.constant<FieldType>('boolean'),
        fc.boolean().map((flag): Json => flag),
      ),
      fc.tuple(
        fc.constant<FieldType>('date'),
        fc
          .date({ min: new Date('1900-01-01'), max: new Date('2200-01-01'), noInvalidDate: true })
          .map((date): Json => date.toISOString().slice(0, 10)),
      ),
    );
    fc.assert(
      fc.property(stored, ([type, json]) => {
        expect(encodeFor(field(type), read(type, json))).toEqual({ json });
      }),
    );
  });
});
