import { linesIn } from '../engine/actions';
import { line, mended, rule, said } from './testDesk';

test('targets that are read-only are refused, and the fix removes the line', () => {
  const subject = rule([line('id', 'id'), line('title', '"x"')]);
  expect(said(subject, 'read-only target')).toEqual(['error: “Id” is read-only in its system.']);
  expect(linesIn(mended(subject, 'read-only target').actions[0]).map(({ field }) => field)).toEqual([
    'title',
  ]);
});
