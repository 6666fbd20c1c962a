import type { Json } from '@vast-knot/core';
import { canHold, oids, readersIn, written } from './values';

test.each<[keyof typeof oids, Json, boolean]>([
  ['int2', 32_767, true],
  ['int2', '-32768', true],
  ['int2', 32_768, false],
  ['int4', '+7', true],
  ['int4', 'nobody', false],
  ['int4', 1.5, false],
  ['int8', { $number: '9223372036854775807' }, true],
  ['int8', { $number: '9223372036854775808' }, false],
  ['int8', '9'.repeat(5000), false],
  ['uuid', 'a0ee-bc99-9c0b-4ef8-bb6d-6bb9-bd38-0a11', true],
  ['uuid', '{A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11}', true],
  ['uuid', 'a0eebc99', false],
  ['bool', true, true],
  ['bool', 'perhaps', false],
  ['bool', null, true],
  ['numeric', 'anything', true],
])('whether %s can hold %j: %s', (type, value, can) => {
  // Forms of uuid: PostgreSQL's documentation, 8.12.
  expect(canHold(oids[type], value)).toBe(can);
});

test.each<[keyof typeof oids, string, Json]>([
  ['bool', 'f', false],
  ['int8', '9007199254740993', { $number: '9007199254740993' }],
  ['numeric', '1.50', 1.5],
  ['numeric', 'NaN', 'NaN'],
  ['float8', 'Infinity', 'Infinity'],
  ['float8', '1e+20', 1e20],
  ['timestamptz', '2026-01-05 08:00:00.5+00', '2026-01-05T08:00:00.5Z'],
  ['timestamptz', 'infinity', 'infinity'],
  ['timestamptz', '0044-03-15 12:00:00+00 BC', '0044-03-15 12:00:00+00 BC'],
  ['timestamp', '2026-03-29 02:30:00', '2026-03-29T01:30:00Z'],
  ['timestamp', 'infinity', 'infinity'],
  ['date', '2026-01-05', '2026-01-05'],
  ['json', '{"a": 1.0}', { a: 1 }],
])('%s %s is read as %j', (type, text, value) => {
  // The hour that summer time leaves out is taken as an hour later: “compatible” of Temporal (from memory).
  expect(readersIn('Europe/Vienna')(oids[type])(text)).toEqual(value);
});

test('an array of texts is a list, and a type that nobody knows is text', () => {
  expect(readersIn('UTC')(1009)('{a,"b c",NULL}')).toEqual(['a', 'b c', null]);
  expect(readersIn('UTC')(999_999)('{a}')).toBe('{a}');
});

test('a time is written as a column without zones holds it; blank is none', () => {
  expect(written('2026-07-01T10:00:00Z', oids.timestamp, 'Europe/Vienna')).toBe('2026-07-01T12:00:00');
  expect(written('2026-07-01T10:00:00Z', oids.timestamptz, 'Europe/Vienna')).toBe('2026-07-01T10:00:00Z');
  expect(written('no time', oids.timestamp, 'UTC')).toBe('no time');
  expect(written('', oids.timestamp, 'UTC')).toBeNull();
});
