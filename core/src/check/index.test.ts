import { checkRules } from './index';
import { find, line, rule, surroundings } from './testDesk';

test('a rule without faults has no finding', () => {
  expect(find(rule([line('title', 'LEFT(name, 60)')]))).toEqual([]);
});

test('a whole set is checked, each rule against the others', () => {
  const a = rule([line('title', '"x"')]);
  const b = rule([line('title', '"y"')], { id: 'r2', name: 'Second' });
  const results = checkRules([a, b], surroundings).map(({ findings }) => findings.map(({ kind }) => kind));
  expect(results).toEqual([['rival rule'], ['rival rule']]);
});
