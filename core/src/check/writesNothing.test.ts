import { rule, said } from './testDesk';

test('a rule that writes nothing is told', () => {
  expect(said(rule([]), 'writes nothing')).toEqual([
    'error: The rule does nothing: no target field has a formula yet.',
  ]);
});
