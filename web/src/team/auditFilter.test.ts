import { addressOf, filterOf } from './auditFilter';

test('days in the address are asked for from the beginning of the first to the end of the last', () => {
  const filter = filterOf(
    new URLSearchParams('person=mara&text=fees&since=2026-11-27&until=2026-11-27&other=1'),
  );
  expect([filter.get('person'), filter.get('text'), filter.get('other')]).toEqual(['mara', 'fees', null]);
  const hours = (Date.parse(filter.get('to') ?? '') - Date.parse(filter.get('from') ?? '')) / 3_600_000;
  expect(hours).toBe(24);
  expect(new Date(filter.get('from') ?? '').getHours()).toBe(0);
});

test('what is no day, and what is empty, narrows nothing', () => {
  expect(filterOf(new URLSearchParams('since=yesterday&until=2026-11&person=')).toString()).toBe('');
});

test('what was changed leads to its place, and what has none leads nowhere', () => {
  expect(addressOf({ kind: 'table', key: 'Handling labels to codes' })).toBe(
    '/tables/Handling%20labels%20to%20codes',
  );
  expect(addressOf({ kind: 'rule', key: 'R1' })).toBe('/rules/R1');
  expect(addressOf({ kind: 'environment', key: '' })).toBe('/environment');
  expect(addressOf({ kind: 'rules', key: '' })).toBeUndefined();
  expect(addressOf({ kind: 'rule', key: '' })).toBeUndefined();
});
