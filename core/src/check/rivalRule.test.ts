import { creating, line, rule, said } from './testDesk';

test('targets that another rule writes on the same change are told, with its name', () => {
  const subject = rule([line('title', '"x"')]);
  const other = rule([line('title', '"y"')], { id: 'r2', name: 'The other' });
  expect(said(subject, 'rival rule', [other])).toEqual([
    'warning: “Title” is also written by “The other” on the same change; the last rule wins.',
  ]);
  const elsewhere = { ...other, trigger: { ...other.trigger, kinds: ['deleted'] as const } };
  expect(said(subject, 'rival rule', [elsewhere])).toEqual([]);
});

test('two rules that each create a record do not write over each other', () => {
  const subject = creating([line('title', '"x"')]);
  const other = creating([line('title', '"x"')], { id: 'r2', name: 'The other' });
  expect(said(subject, 'rival rule', [other])).toEqual([]);
});
