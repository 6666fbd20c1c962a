import fc from 'fast-check';
import { printJson } from '../../model/jsonText';
import { recogniseFile } from './index';
import { jsonFile, type JsonSettings } from './jsonFile';
import { jsonLinesFile } from './jsonLinesFile';
import { at, rowsOf } from './testFile';

const list: JsonSettings = { kind: 'json', encoding: 'utf-8', list: '' };
const lines = { kind: 'json lines', encoding: 'utf-8' } as const;
const beginning = (text: string, name = 'parts.json') => ({
  name,
  bytes: new TextEncoder().encode(text),
  whole: true,
});

const orders = `{"made": "2026-05-01", "orders": [
  {"number": 7, "weight": 12345678901234567890.5, "lines": [{"kg": 4, "tags": ["a", "b"]}, {"kg": 2.50}], "a/b": {"m~n": true}},
  {"number": 8, "lines": []},
  12
]}`;

test('the objects of the list that is chosen are the records, with all digits of their numbers', async () => {
  const rows = await rowsOf(jsonFile, { ...list, list: 'orders' }, orders);
  expect(rows).toMatchObject([
    {
      ok: true,
      at: 1,
      place: 'record 1',
      value: { number: 7, weight: { $number: '12345678901234567890.5' } },
    },
    { ok: true, at: 2, value: { number: 8 } },
    { ok: false, at: 3, place: 'record 3', because: 'It is no object with names.', text: '12' },
  ]);
});

test('which list holds the records is found out', () => {
  expect(jsonFile.recognise(beginning(orders))).toEqual({ ...list, list: 'orders' });
  expect(jsonFile.recognise(beginning('[{"a": [{"b": 1}]}]'))).toEqual(list);
  // A beginning ends in the middle.
  expect(jsonFile.recognise(beginning('{"data": {"rows": [{"a": 1}, {"a'))).toEqual({
    ...list,
    list: 'data.rows',
  });
  expect(jsonFile.recognise(beginning('a,b\n1,2'))).toBeUndefined();
  expect(jsonLinesFile.recognise(beginning('{"a": 1}\n{"a": 2}\n'))).toEqual(lines);
  expect(jsonLinesFile.recognise(beginning(orders))).toBeUndefined();
  // A file of one line may be either: what holds a list of objects is JSON.
  expect(recogniseFile(beginning('{"made":"2026","parts":[{"number":1},{"number":2}]}'))).toEqual({
    ...list,
    list: 'parts',
  });
  expect(recogniseFile(beginning('{"number":1,"tags":["a"]}\n'))).toEqual(lines);
});

// RFC 6901, section 5: the example document and what its pointers evaluate to.
test('places are JSON Pointers', async () => {
  const document =
    '{"foo":["bar","baz"],"":0,"a/b":1,"c%d":2,"e^f":3,"g|h":4,"i\\\\j":5,"k\\"l":6," ":7,"m~n":8}';
  const [row] = await rowsOf(jsonLinesFile, lines, document);
  const gives = ['/foo', '/foo/0', '/', '/a~1b', '/c%d', '/e^f', '/g|h', '/i\\j', '/k"l', '/ ', '/m~0n'].map(
    (pointer) => at(jsonLinesFile, pointer, row),
  );
  expect(gives).toEqual([['bar', 'baz'], 'bar', 0, 1, 2, 3, 4, 5, 6, 7, 8]);
});

test('a pointer that meets a list goes on in each element', async () => {
  const [first, second] = await rowsOf(jsonFile, { ...list, list: 'orders' }, orders);
  expect(at(jsonFile, '/lines/kg', first)).toEqual([4, 2.5]);
  expect(at(jsonFile, '/lines/1/kg', first)).toBe(2.5);
  expect(at(jsonFile, '/lines/tags', first)).toEqual(['a', 'b']);
  expect(at(jsonFile, '/a~1b/m~0n', first)).toBe(true);
  expect(at(jsonFile, '/lines/kg', second)).toBeNull();
  expect(at(jsonFile, '/constructor', first)).toBeNull();
  expect(jsonFile.address('lines')).toEqual({
    ok: false,
    because: '“lines” is no JSON Pointer: it begins with “/”, as /order/number does.',
  });
});

test('a file that is cut off gives what came before, and says where it ends', async () => {
  const rows = await rowsOf(jsonFile, list, '[{"a": 1}, {"a": 2}, {"a"');
  expect(rows).toMatchObject([
    { ok: true },
    { ok: true },
    { ok: false, place: 'record 3', because: expect.stringContaining('cut off') as string },
  ]);
});

test('what is nested without an end is refused at once', async () => {
  const deep = '['.repeat(50_000);
  expect(jsonFile.recognise(beginning(deep))).toBeUndefined();
  expect(await rowsOf(jsonFile, list, deep, 10_000)).toMatchObject([{ ok: false, place: 'record 1' }]);
});

test.each([
  ['{"orders": 1}', 'orders', 'There is no list at “orders”, or an empty one.'],
  ['[]', '', 'The file is no list, or an empty one.'],
])('%s has no records: it says so', async (text, where, because) => {
  expect(await rowsOf(jsonFile, { ...list, list: where }, text)).toMatchObject([{ ok: false, because }]);
});

test('a line that is no JSON is told of by its number, and the others go on', async () => {
  const rows = await rowsOf(jsonLinesFile, lines, '{"a": 1}\r\n\n{"a": \n[1]\n{"a": 5}');
  expect(rows).toMatchObject([
    { ok: true, at: 1, place: 'line 1', value: { a: 1 } },
    {
      ok: false,
      at: 3,
      place: 'line 3',
      because: expect.stringMatching(/^It is no JSON: /) as string,
      text: '{"a": ',
    },
    { ok: false, at: 4, because: 'It is no object with names.' },
    { ok: true, at: 5, value: { a: 5 } },
  ]);
});

test('law: what is written as JSON, or as lines, is read again, in parts of whatever size', async () => {
  const value = fc.letrec((tie) => ({
    any: fc.oneof(
      { depthSize: 'small' },
      fc.string({ unit: 'grapheme', maxLength: 6 }),
      fc.integer(),
      fc.boolean(),
      fc.constant(null),
      fc.array(tie('any'), { maxLength: 3 }),
      fc.dictionary(fc.stringMatching(/^[a-z/~ ]{1,4}$/), tie('any'), { maxKeys: 3, noNullPrototype: true }),
    ),
  })).any;
  const records = fc.array(
    fc.dictionary(fc.stringMatching(/^[a-z]{1,4}$/), value, { noNullPrototype: true, maxKeys: 4 }),
    {
      minLength: 1,
      maxLength: 5,
    },
  );
  await fc.assert(
    fc.asyncProperty(records, fc.integer({ min: 1, max: 40 }), async (objects, size) => {
      const asList = await rowsOf(jsonFile, list, printJson(objects), size);
      expect(asList.map((row) => row.ok && row.value)).toEqual(objects);
      const text = objects.map((each) => `${printJson(each)}\n`).join('');
      const asLines = await rowsOf(jsonLinesFile, lines, text, size);
      expect(asLines.map((row) => row.ok && row.value)).toEqual(objects);
    }),
    { numRuns: 200 },
  );
});
