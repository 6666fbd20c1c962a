import fc from 'fast-check';
import { changedPaths, sameValue } from './equal';
import { isJsonObject } from './json';
import { jsonNumber, parseJson, printJson, scalarText } from './jsonText';
import { isLongNumber } from './longNumber';
import type { Field, FieldType } from './system';

const long = '12345678901234567890';
const field = (type: FieldType): Field => ({ name: 'f', label: 'F', type });

describe('numbers of JSON keep their digits', () => {
  // RFC 8259, section 6: a number that a float does not hold, such as 1E400 or one with more digits of pi, from memory.
  test.each([
    ['0', 0],
    ['-0.5', -0.5],
    ['1e2', 100],
    ['9007199254740991', 9007199254740991],
    ['0.1', 0.1],
    ['1E400', { $number: '1E400' }],
    ['3.141592653589793238462643383279', { $number: '3.141592653589793238462643383279' }],
    ['9007199254740993', { $number: '9007199254740993' }],
    [long, { $number: long }],
    ['-123456789012345.00000000001', { $number: '-123456789012345.00000000001' }],
  ])('%s', (text, value) => {
    expect(parseJson(text)).toEqual(value);
    expect(parseJson(`{"a":[${text}]}`)).toEqual({ a: [value] });
    if (typeof value === 'object') expect(printJson({ a: [value] })).toBe(`{"a":[${text}]}`);
  });

  // RFC 8259, sections 2 to 7, from memory.
  test.each([
    '01',
    '+1',
    '.5',
    '1.',
    'NaN',
    '0x1',
    '[1,]',
    '{"a":1,}',
    "'a'",
    '"\u0001"',
    '',
    '{a:1}',
    '[1 2]',
  ])('%s is no JSON, with a long number beside it or without', (text) => {
    expect(() => parseJson(text)).toThrow(SyntaxError);
    expect(() => parseJson(`[${long}, ${text}]`)).toThrow(SyntaxError);
  });

  test('of members with one name the last counts, and no member reaches a prototype', () => {
    expect(parseJson(`{"a": ${long}, "a": 2}`)).toEqual({ a: 2 });
    const json = parseJson(`{"__proto__": {"x": ${long}}}`) as object;
    expect(Object.keys(json)).toEqual(['__proto__']);
    expect(({} as { x?: unknown }).x).toBeUndefined();
  });

  test('JSON that is nested without end is refused', () => {
    const deep = (depth: number) => '['.repeat(depth) + ']'.repeat(depth);
    expect(parseJson(deep(200))).toBeTruthy();
    expect(() => parseJson(deep(201))).toThrow('nested 200 deep');
    expect(() => parseJson(deep(100_000))).toThrow(SyntaxError);
  });

  // RFC 8259, section 2: these four are the whitespace of JSON.
  test.each(['', ' ', '\t', '\n', '\r', '  \r\n'])('wherever a number stands, behind %j', (space) => {
    for (const long of ['12345678901234567891', '-0.12345678901234567', '12345678901234.567', '7E400'])
      for (const [open, close] of [
        ['', ''],
        ['[', ']'],
        ['["12e4",', ']'],
        ['{"key 1e4":', '}'],
      ] as const) {
        const text = `${open}${space}${long}${close}`;
        expect(printJson(parseJson(text))).toBe(`${open}${long}${close}`);
      }
  });

  test('wherever in a text a number of sixteen digits begins', () => {
    for (let before = 0; before < 48; before++) {
      const text = `["${'a'.repeat(before)}",9007199254740993,1.5]`;
      expect(printJson(parseJson(text))).toBe(text);
      const short = `["${'7'.repeat(before)}",900719925474099,1.5]`;
      expect(parseJson(short)).toEqual(JSON.parse(short));
    }
  });

  test('whatever is read is written again with the digits that it had', () => {
    const digits = fc.tuple(fc.boolean(), fc.bigInt({ min: 0n, max: 10n ** 40n }), fc.nat({ max: 20 }));
    fc.assert(
      fc.property(digits, ([negative, number, places]) => {
        const all = String(number).padStart(places + 1, '0');
        const text = `${negative ? '-' : ''}${all.slice(0, all.length - places)}${places > 0 ? `.${all.slice(all.length - places)}` : ''}`;
        const read = parseJson(`{"n":${text}}`);
        const again = printJson(read).slice(5, -1);
        expect(sameValue(field('decimal'), again, text)).toBe(true);
        // What the standard reader keeps as well, it reads the same.
        if (!printJson(read).includes(text) || typeof (read as { n: unknown }).n === 'number')
          expect(read).toEqual(JSON.parse(`{"n":${text}}`));
      }),
      { numRuns: 1000 },
    );
  });

  test('other JSON is read and written as the standard reader and writer do', () => {
    fc.assert(
      fc.property(fc.json(), (text) => {
        expect(parseJson(text)).toEqual(JSON.parse(text));
        expect(printJson(parseJson(text))).toBe(JSON.stringify(JSON.parse(text)));
        expect(printJson(parseJson(text), 2)).toBe(JSON.stringify(JSON.parse(text), null, 2));
      }),
    );
  });
});

describe('a number with its digits is a value', () => {
  const number = jsonNumber(long);

  test('and no object', () => {
    expect([isLongNumber(number), isJsonObject(number), scalarText(number)]).toEqual([true, false, long]);
    expect(isJsonObject({ $number: 'twelve' })).toBe(true);
    expect(isJsonObject({ $number: '12', more: 1 })).toBe(true);
  });

  test.each<[FieldType, unknown, unknown, boolean]>([
    ['integer', number, long, true],
    ['integer', number, '12345678901234567891', false],
    ['decimal', { $number: `${long}.50` }, `${long}.5`, true],
    ['decimal', { $number: '1E400' }, `1${'0'.repeat(400)}`, true],
    ['decimal', 12345678901234567000, number, false],
    ['text', number, long, true],
    ['reference', number, '12345678901234567891', false],
  ])('a %s field: %j and %j', (type, a, b, same) => {
    expect(sameValue(field(type), a as never, b as never)).toBe(same);
    expect(sameValue(field(type), b as never, a as never)).toBe(same);
  });

  test('a change of its last digit is a change', () => {
    const fields = [field('integer')];
    expect(changedPaths(fields, { f: number }, { f: { $number: '12345678901234567891' } })).toEqual(['f']);
    expect(
      changedPaths(fields, { f: number, g: number }, { f: { $number: long }, g: { $number: long } }),
    ).toEqual([]);
    expect(changedPaths([], { g: number }, { g: { $number: '12345678901234567891' } })).toEqual(['g']);
  });
});
