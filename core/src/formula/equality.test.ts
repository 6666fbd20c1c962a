/**
 * Blank is one thing, and what is equal is equal everywhere: for the change detector, for searches, for formulas and for what is
 * written.
 */
import { changedPaths, isBlankJson, sameValue } from '../model/equal';
import type { Json } from '../model/json';
import type { Field, FieldType } from '../model/system';
import { ValueIndex } from '../workspace/valueIndex';
import { equalValues, isBlank } from './compare';
import { compile } from './compile';
import { decoderFor } from './decode';
import { encodeFor } from './encode';
import { FormulaError } from './error';
import type { Value } from './value';
import { exampleEnv, exampleScope } from './testScope';

const blanks: readonly (Json | undefined)[] = [undefined, null, '', [], {}];
const types: readonly FieldType[] = [
  'text',
  'choice',
  'reference',
  'integer',
  'decimal',
  'boolean',
  'date',
  'datetime',
  'multichoice',
  'object',
  'list',
];
const field = (type: FieldType): Field => ({ name: 'f', label: 'F', type });

describe('blank is one thing', () => {
  test.each(types)('in a %s field, however it is told', (type) => {
    for (const a of blanks) {
      expect(isBlank(decoderFor(field(type))(a))).toBe(true);
      for (const b of blanks) {
        expect(sameValue(field(type), a, b)).toBe(true);
        expect(changedPaths([field(type)], { f: a }, { f: b })).toEqual([]);
      }
      expect(sameValue(field(type), a, 'x')).toBe(false);
    }
  });

  test('also inside of what no schema knows', () => {
    for (const a of blanks)
      for (const b of blanks)
        expect(changedPaths([], { deep: { f: a, g: 1 } }, { deep: { f: b, g: 1 } })).toEqual([]);
  });

  test.each([
    'KEEP({1}, item > 2)',
    'LEFT(name, 0)',
    'SUBSTITUTE(phone, phone, "")',
    'TEXTJOIN(",", TRUE, "")',
    'PARSEJSON("{}")',
    'PARSEJSON("[]")',
  ])('also where %s makes it', (source) => {
    const result = compile(source, exampleScope);
    const value = result.ok ? result.formula.run(exampleEnv) : 'not compiled';
    expect(isBlank(value)).toBe(true);
    for (const type of types) expect(encodeFor(field(type), value)).toEqual({ json: null });
    const blank = compile(`ISBLANK(${source})`, exampleScope);
    expect(blank.ok && blank.formula.run(exampleEnv)).toBe(true);
  });
});

/** Values of each type, some of which are told in several ways. */
const told: Readonly<Record<string, readonly Json[]>> = {
  text: [
    'x',
    'X',
    '5',
    5,
    '5.0',
    true,
    'true',
    'é',
    'e\u0301',
    { $number: '12345678901234567890' },
    '12345678901234567890',
  ],
  choice: ['open', 'OPEN', 1, '1'],
  reference: ['P-1', 7, '7', { $number: '12345678901234567890' }, '12345678901234567890'],
  integer: [
    5,
    '5',
    '5.0',
    ' 5 ',
    '05',
    5.0,
    -0,
    0,
    '12345678901234567890',
    { $number: '12345678901234567890' },
    1e21,
    '1e21',
  ],
  decimal: [
    0.1,
    '0.10',
    '.1',
    1,
    '1.00',
    0.30000000000000004,
    '0.3',
    { $number: '0.12345678901234567890' },
    '0.1234567890123456789',
  ],
  boolean: [true, 'true', 'TRUE', 'True', false, 'FALSE'],
  date: ['2026-03-09', '2026-03-09T00:00:00Z', '2026-03-09T00:00:00+01:00', '2026-03-10', '2026-03-10T00:00'],
  datetime: [
    '2026-03-09T00:00:00Z',
    '2026-03-09T01:00:00+01:00',
    '2026-03-09T00:00:00.000Z',
    '2026-03-09T00:00:01Z',
  ],
  multichoice: [['a', 'b'], ['b', 'a'], ['a', 'b', 'a'], 'a', ['a'], [1], ['1'], ['é'], ['e\u0301']],
};

describe.each(Object.entries(told))('what is equal in a %s field', (type, values) => {
  const definition = field(type as FieldType);
  const decode = decoderFor(definition);
  const pairs = values.flatMap((a) => values.map((b): readonly [Json, Json] => [a, b]));
  const asSet = (value: Value): Value =>
    type === 'multichoice' && Array.isArray(value) ? [...new Set(value as readonly string[])].sort() : value;

  test.each(pairs)('for the change detector is equal for formulas, and the other way: %j and %j', (a, b) => {
    const [x, y] = [decode(a), decode(b)];
    expect([x, y].some((value) => value instanceof FormulaError)).toBe(false);
    expect(equalValues(asSet(x), asSet(y))).toBe(sameValue(definition, a, b));
    expect(sameValue(definition, b, a)).toBe(sameValue(definition, a, b));
  });

  test('is found by a search', () => {
    const ref = { system: 's', recordType: 't', id: '1' };
    for (const [a, b] of pairs) {
      const found = new ValueIndex(definition, 'f', [{ ref, record: { f: a } }]).candidates([b]);
      if (found && sameValue(definition, a, b)) expect(found).toHaveLength(1);
    }
  });

  test('is not written again', () => {
    for (const a of values) {
      const written = encodeFor(definition, decode(a));
      expect('json' in written && (isBlankJson(written.json) || sameValue(definition, written.json, a))).toBe(
        true,
      );
    }
  });
});

test.each([
  ['"e" & PARSEJSON("""\\u0301""")', 'é'],
  ['CONCATENATE("e", PARSEJSON("""\\u0301"""))', 'é'],
  ['TEXTJOIN("", TRUE, "e", PARSEJSON("""\\u0301"""))', 'é'],
])('text that is joined is one character where it can be: %s', (source, text) => {
  const result = compile(source, exampleScope);
  expect(result.ok && result.formula.run(exampleEnv)).toBe(text);
});

test('options are the same in any order, told once or twice, in a formula as for the change detector', () => {
  const scope = {
    ...exampleScope,
    record: [
      {
        ...field('multichoice'),
        options: [
          { value: 'a', label: 'A' },
          { value: 'b', label: 'B' },
        ],
      },
    ],
  };
  const compare = (now: Json, before: Json): Value => {
    const compiled = compile('f = before.f', scope);
    return compiled.ok
      ? compiled.formula.run({ ...exampleEnv, record: { f: now }, before: { f: before } })
      : null;
  };
  for (const a of told['multichoice'] ?? [])
    for (const b of told['multichoice'] ?? [])
      expect(compare(a, b)).toBe(sameValue(field('multichoice'), a, b));
  const literal = compile('f = {"b", "a"}', scope);
  expect(literal.ok && literal.formula.run({ ...exampleEnv, record: { f: ['a', 'b'] } })).toBe(true);
});
