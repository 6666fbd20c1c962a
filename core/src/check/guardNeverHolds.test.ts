import { line, rule, said } from './testDesk';

describe('a guard that can never hold', () => {
  test.each([
    ['FALSE', 'it says FALSE'],
    ['status = "activ"', '“status” has no option “activ”'],
    [
      'AND(status = "active", status = "dormant")',
      '“status” cannot have all of the values asked for at once',
    ],
    ['AND(ISBLANK(name), name = "Skerry")', '“name” cannot be blank and have a value'],
    ['AND(crates > 5, crates < 3)', '“crates” cannot be more than 5 and less than 3'],
    [
      'AND(status <> "active", ONEOF(status, "active"))',
      '“status” cannot have all of the values asked for at once',
    ],
  ])('%s', (guard, reason) => {
    expect(said(rule([line('title', '"x"')], { guard }), 'guard never holds')).toEqual([
      `error: The guard can never hold: ${reason}.`,
    ]);
  });

  test.each([
    'status = "active"',
    'OR(FALSE, status = "active")',
    'AND(crates > 3, crates < 5)',
    'AND(crates >= 5, crates <= 5)',
    'AND(status <> "active", NOT(ISBLANK(name)))',
    'ISBLANK(status)',
    'status = ""',
  ])('%s may hold', (guard) => {
    expect(said(rule([line('title', '"x"')], { guard }), 'guard never holds')).toEqual([]);
  });
});
