import { fireEvent, screen } from '@testing-library/react';
import { show } from '../../testing/app';
import { ConditionValue, dayFormula, dayIn } from './ConditionValue';

test('a day is a formula and back, and other formulas are none', () => {
  expect(dayIn('DATE(2026, 3, 9)')).toBe('2026-03-09');
  expect(dayIn('date(2026,12,31)')).toBe('2026-12-31');
  expect(dayIn('""')).toBe('');
  expect(dayIn('TODAY() - 7')).toBeUndefined();
  for (const day of ['2026-03-09', '1999-12-31']) expect(dayIn(dayFormula(day))).toBe(day);
});

test('a date is typed or picked, and becomes a formula', () => {
  const changed = jest.fn();
  show(
    <ConditionValue
      label="Value"
      value="DATE(2026, 3, 9)"
      field={{ name: 'since', label: 'Since', type: 'date' }}
      onChange={changed}
    />,
  );
  const field = screen.getByLabelText('Value');
  expect(field).toHaveProperty('value', '2026-03-09');
  fireEvent.change(field, { target: { value: '2026-04-01' } });
  fireEvent.blur(field);
  expect(changed).toHaveBeenLastCalledWith('DATE(2026, 4, 1)');
});

test('a formula that is no day is left as text', () => {
  show(
    <ConditionValue
      label="Value"
      value="TODAY() - 7"
      field={{ name: 'since', label: 'Since', type: 'date' }}
      onChange={() => undefined}
    />,
  );
  expect(screen.getByLabelText('Value')).toHaveProperty('value', 'TODAY() - 7');
});
