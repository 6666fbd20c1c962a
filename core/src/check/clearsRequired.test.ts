import { line, mended, rule, said } from './testDesk';

test('targets that are required and may be left blank are warned of', () => {
  const subject = rule([line('title', 'LEFT(phone, 60)', 'always')]);
  expect(said(subject, 'clears required')).toEqual([
    'warning: “Title” is required, and the formula can give blank; the line fails then.',
  ]);
  expect(said(mended(subject, 'clears required'), 'clears required')).toEqual([]);
});
