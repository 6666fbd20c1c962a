import { deepest, unreadableIn } from './wellFormed';

test('text that can be kept is let through, wherever it stands', () => {
  expect(
    unreadableIn({ name: 'Ferry \u{1F6A2}', list: ['a', { b: '\n\t' }], number: 1, none: null }),
  ).toBeUndefined();
  expect(unreadableIn(undefined)).toBeUndefined();
});

test.each([
  ['NUL', { rule: { name: 'a\0b' } }, 'rule/name', 'holds the character NUL'],
  ['half of a pair', { list: ['fine', '\ud83d'] }, 'list/1', 'holds half of a character'],
  ['a name with NUL', { 'a\0b': 1 }, '', 'has a name that holds the character NUL'],
])('%s is told with its place', (_what, json, at, because) => {
  expect(unreadableIn(json)).toEqual({ at, because: expect.stringContaining(because) });
});

test('what is nested too deep is refused, and what is as deep as may be is not', () => {
  const nested = (levels: number) => {
    let value: unknown = 'inside';
    for (let at = 0; at < levels; at++) value = [value];
    return value;
  };
  expect(unreadableIn(nested(deepest))).toBeUndefined();
  expect(unreadableIn(nested(deepest + 1))?.because).toBe('is nested deeper than 100');
  expect(unreadableIn(nested(100_000))?.because).toBe('is nested deeper than 100');
});
