import { linesIn } from '../engine/actions';
import { find, line, mended, rule, said } from './testDesk';

describe('references', () => {
  test('that get a name instead of an id are found, and looked up by the fix', () => {
    const subject = rule([line('agent', 'name')]);
    expect(said(subject, 'unresolved reference')).toEqual([
      'warning: “Agent” wants the id of a party in Desk, and the formula gives “Name”.',
    ]);
    const after = mended(subject, 'unresolved reference');
    expect(linesIn(after.actions[0])[0]?.reference).toEqual({
      recordType: 'party',
      field: 'title',
      none: 'fail',
      several: 'fail',
    });
    expect(find(after)).toEqual([]);
  });

  test('that get the id of a found record are right', () => {
    expect(find(rule([line('agent', 'party.id')]))).toEqual([]);
    expect(find(rule([line('agent', 'party.agent')]))).toEqual([]);
  });
});
