import { line, mended, rule, said } from './testDesk';

test('targets that are required and may be left blank are warned of', () => {
  const subject = rule([line('title', 'LEFT(phone, 60)', 'always')]);
  expect(said(subject, 'clears required')).toEqual([
    'warning: “Title” is required, and the formula can give blank; the line fails then.',
  ]);
  expect(said(mended(subject, 'clears required'), 'clears required')).toEqual([]);
});

test('a look-up in a table that gives blank without a row is warned of, also where its key is never blank', () => {
  const subject = (formula: string) => rule([line('title', formula, 'always')]);
  const [blank] = said(subject('TABLE("Labels to codes", "dry", "code")'), 'clears required');
  expect(blank).toBe('warning: “Title” is required, and the formula can give blank; the line fails then.');
  expect(
    said(subject('COALESCE(TABLE("Labels to codes", "dry", "code"), "none")'), 'clears required'),
  ).toEqual([]);
});
