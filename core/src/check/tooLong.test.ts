import { linesIn } from '../engine/actions';
import { find, line, mended, rule, said } from './testDesk';

describe('text longer than its field', () => {
  // A target's length must be at least its source's: common practice, no source.
  test('is found by the lengths of both ends', () => {
    expect(said(rule([line('title', 'name')]), 'too long')).toEqual([
      'warning: “Title” holds 60 characters, and the formula can give 80; a longer value fails.',
    ]);
  });

  test.each([
    ['title', 'LEFT(name, 60)'],
    ['zone', 'UPPER(LEFT(name, 3))'],
    ['zone', 'IF(crates > 1, "A1", "B22")'],
    ['zone', 'TABLE("Labels to codes", status, "code")'],
    ['number', 'LEFT(name, 6) & LEFT(phone, 6)'],
  ])('is not feared for %s from %s', (field, formula) => {
    expect(said(rule([line(field, formula)]), 'too long')).toEqual([]);
  });

  test.each([
    ['name & ", " & crates', '82 and more'],
    ['name & ", " & status', '89'],
    ['CONCATENATE(phone, phone)', '80'],
    ['TEXTJOIN("", TRUE, name, SPLIT(status, ","))', '80 and more'],
    ['TEXTJOIN(" - ", TRUE, phone, phone)', '83'],
    ['REPT(LEFT(name, 20), 4)', '80'],
    ['PADLEFT(LEFT(name, 5), 70)', '70'],
    ['REPLACE(name, 1, 2, "abc")', '83'],
  ])('is found in what %s joins', (formula, longest) => {
    expect(said(rule([line('title', formula)]), 'too long')).toEqual([
      `warning: “Title” holds 60 characters, and the formula can give ${longest}; a longer value fails.`,
    ]);
  });

  test('a UUID is 36 characters long', () => {
    // Common practice, no source; RFC 9562, section 4, has the same count.
    expect(said(rule([line('number', 'UUID5(id, "dns")')]), 'too long')).toEqual([
      'warning: “Number” holds 12 characters, and the formula can give 36; a longer value fails.',
    ]);
  });

  test('is cut by the fix', () => {
    const after = mended(rule([line('title', 'name')]), 'too long');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('LEFT(name, 60)');
    expect(find(after)).toEqual([]);
  });
});
