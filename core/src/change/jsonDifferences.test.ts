import { applyPatch } from 'rfc6902';
import { jsonDifferences } from './jsonDifferences';

test('what is other is told by its place, before and after', () => {
  const before = { name: 'Port fees', note: '', lines: [{ target: 'fee', formula: '1' }] };
  const after = {
    name: 'Port fees',
    note: 'by harbour',
    lines: [{ target: 'fee', formula: '2' }, { target: 'tax' }],
  };
  expect(jsonDifferences(before, after)).toEqual({
    changes: [
      { at: '/note', before: '', after: 'by harbour' },
      { at: '/lines/0/formula', before: '1', after: '2' },
      { at: '/lines/1', after: '{"target":"tax"}' },
    ],
    more: 0,
  });
});

test('what was not there has no before, and what is gone no after', () => {
  expect(jsonDifferences(undefined, { a: 1 }).changes).toEqual([{ at: '', after: '{"a":1}' }]);
  expect(jsonDifferences({ a: 1 }, undefined).changes).toEqual([{ at: '', before: '{"a":1}' }]);
  expect(jsonDifferences({ 'a/b~c': null }, { 'a/b~c': true }).changes).toEqual([
    { at: '/a~1b~0c', after: 'true' },
  ]);
  expect(jsonDifferences({ a: 1 }, { a: 1 }).changes).toEqual([]);
});

test('places are those of RFC 6901: a patch that replaces what is told gives what is there after', () => {
  const before = { a: { 'x/y': 'one', '~': 'two' }, list: ['1', '2'] };
  const after = { a: { 'x/y': 'three', '~': 'four' }, list: ['1', '5'] };
  const { changes } = jsonDifferences(before, after);
  const target = structuredClone(before);
  expect(
    applyPatch(
      target,
      changes.map(({ at, after: value }) => ({ op: 'replace', path: at, value })),
    ).every((error) => error === null),
  ).toBe(true);
  expect(target).toEqual(after);
});

test('long values are cut, and of many changes the first hundred are told', () => {
  const { changes } = jsonDifferences({ a: '' }, { a: 'x'.repeat(10_000) });
  expect(changes[0]?.after).toHaveLength(501);
  const many = Object.fromEntries(Array.from({ length: 130 }, (_each, at) => [`f${at}`, at]));
  const all = jsonDifferences({}, many);
  expect([all.changes.length, all.more]).toEqual([100, 30]);
});
