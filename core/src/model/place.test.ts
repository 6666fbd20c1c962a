import fc from 'fast-check';
import { actionOf, parsePlace, printPlace, type RulePlace } from './place';

test.each<[string, RulePlace]>([
  ['guard', { of: 'rule', member: 'guard' }],
  ['actions', { of: 'rule', member: 'actions' }],
  ['trigger/watched/1', { of: 'trigger', rest: ['watched', '1'] }],
  ['finds/0/match/2/as', { of: 'find', at: 0, rest: ['match', '2', 'as'] }],
  ['finds/3', { of: 'find', at: 3, rest: [] }],
  ['actions/1/only', { of: 'action', at: 1, rest: ['only'] }],
  ['actions/1/lines/4/formula', { of: 'line', at: 1, line: 4, member: 'formula' }],
  ['actions/1/lines/4', { of: 'line', at: 1, line: 4, member: '' }],
  ['actions/0/steps/2/formula', { of: 'action', at: 0, rest: ['steps', '2', 'formula'] }],
])('%s is read as what it names, and written back', (path, place) => {
  expect(parsePlace(path)).toEqual(place);
  expect(printPlace(place)).toBe(path);
});

test('whatever path is read, it is written back as it was', () => {
  const part = fc.constantFrom(
    'guard',
    'trigger',
    'finds',
    'actions',
    'lines',
    '0',
    '7',
    'formula',
    'watched',
  );
  fc.assert(
    fc.property(fc.array(part, { minLength: 1, maxLength: 6 }), (parts) => {
      const path = parts.join('/');
      // A line has no places deeper than its members.
      fc.pre(!/^actions\/\d+\/lines\/\d+\/\w+\//.test(path));
      expect(printPlace(parsePlace(path))).toBe(path);
    }),
  );
});

test('a place knows the action it belongs to', () => {
  expect(actionOf(parsePlace('actions/2/lines/0/field'))).toBe(2);
  expect(actionOf(parsePlace('actions/3/target'))).toBe(3);
  expect(actionOf(parsePlace('finds/1'))).toBeUndefined();
});
