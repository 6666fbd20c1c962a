import { line, mended, rule, said } from './testDesk';

test('targets with two lines are refused', () => {
  const write = { kind: 'write', target: 'party', lines: [line('title', '"x"')] } as const;
  const subject = rule([], { actions: [write, write] });
  expect(said(subject, 'two lines')).toEqual(['error: “Title” has a line already, in action 1.']);
  expect(said(mended(subject, 'two lines'), 'two lines')).toEqual([]);
});
