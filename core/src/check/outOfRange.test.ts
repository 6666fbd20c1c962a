import { find, line, mended, rule, said } from './testDesk';

test('numbers out of range may be, must be, and are kept within by the fix', () => {
  expect(said(rule([line('rank', 'crates')]), 'out of range')).toEqual([
    'warning: “Rank” takes 1 to 9, and the formula can give a number beyond.',
  ]);
  expect(said(rule([line('rank', '12')]), 'out of range')).toEqual([
    'error: “Rank” takes 9 at most, and the formula always gives a number beyond.',
  ]);
  expect(find(mended(rule([line('rank', 'crates')]), 'out of range'))).toEqual([]);
});
