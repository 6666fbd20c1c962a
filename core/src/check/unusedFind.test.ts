import { line, mended, rule, said } from './testDesk';

test('a find that nothing uses is told, and removed by the fix', () => {
  const [found] = rule([]).finds;
  if (!found) throw new Error('no find');
  const subject = rule([line('title', '"x"')], {
    finds: [found, { ...found, alias: 'spare', none: 'go on' }],
  });
  expect(said(subject, 'unused find')).toEqual(['note: “spare” is found and used nowhere.']);
  expect(mended(subject, 'unused find').finds).toHaveLength(1);
});
