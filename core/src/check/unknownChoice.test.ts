import { linesIn } from '../engine/actions';
import { find, line, mended, rule, said } from './testDesk';

describe('choices', () => {
  test('that the target does not know are named, with the nearest that it knows', () => {
    const subject = rule([line('state', 'IF(crates > 1, "activ", "closed")')]);
    expect(said(subject, 'unknown choice')).toEqual([
      'warning: “State” has no option “activ”, which the formula can give.',
    ]);
    expect(linesIn(mended(subject, 'unknown choice').actions[0])[0]?.formula).toBe(
      'IF(crates > 1, "active", "closed")',
    );
  });

  test('pass when the options of the source are among those of the target', () => {
    expect(find(rule([line('state', 'status')]))).toEqual([]);
  });

  test('any text for a choice is warned of', () => {
    expect(said(rule([line('state', 'name')]), 'unknown choice')).toEqual([
      'warning: “State” takes one of its 3 options, and the formula can give any text; a table would turn it into an option.',
    ]);
  });
});
