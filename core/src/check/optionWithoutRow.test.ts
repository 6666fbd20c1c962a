import { find, line, rule, said } from './testDesk';

test('choices are looked up through tables: options without a row are named', () => {
  const subject = rule([line('codes', 'EACH(labels, TABLE("Labels to codes", item, "code"))')]);
  expect(said(subject, 'unknown choice')).toEqual([]);
  expect(said(subject, 'option without row')).toEqual([
    'warning: The table “Labels to codes” has no row for “fragile”; it gives blank then.',
  ]);
  expect(find(subject).find(({ kind }) => kind === 'option without row')?.table).toBe('Labels to codes');
});
