import { isDue, isZone, quietNow } from './clock';

const six = { at: '06:00', zone: 'Europe/London', days: [] };

test.each([
  // Clocks in the United Kingdom go forward on the last Sunday of March (Summer Time Order 2002).
  ['2026-03-28T06:00:00Z', true],
  ['2026-03-29T05:00:00Z', true],
  ['2026-03-29T06:00:00Z', false],
  ['2026-03-28T06:01:00Z', false],
])('six in the morning in London at %s: %s', (instant, due) => {
  expect(isDue(six, instant)).toBe(due);
});

test('days are those of the zone, Monday first', () => {
  // 2026-03-09 is a Monday; in Auckland it is Tuesday already in the evening of London.
  expect(isDue({ ...six, days: [1] }, '2026-03-09T06:00:00Z')).toBe(true);
  expect(isDue({ ...six, days: [2] }, '2026-03-09T06:00:00Z')).toBe(false);
  expect(isDue({ at: '09:00', zone: 'Pacific/Auckland', days: [2] }, '2026-03-09T20:00:00Z')).toBe(true);
});

test.each([
  ['Europe/London', true],
  ['UTC', true],
  ['Europe/Skerry', false],
  ['', false],
])('%s is a zone: %s', (zone, is) => expect(isZone(zone)).toBe(is));

test.each([
  ['2026-12-01T21:59:59Z', false],
  ['2026-12-01T22:00:00Z', true],
  ['2026-12-02T00:00:00Z', true],
  ['2026-12-02T05:59:59Z', true],
  ['2026-12-02T06:00:00Z', false],
  // In summer the clock of London is an hour before UTC.
  ['2026-07-01T21:00:00Z', true],
  ['2026-07-02T05:00:00Z', false],
])('from ten in the evening to six in the morning is quiet in London, at %s: %s', (instant, is) => {
  expect(quietNow({ from: '22:00', to: '06:00', zone: 'Europe/London' }, instant)).toBe(is);
});

test('a stretch within a day is one, and one that ends where it begins is none', () => {
  const noon = { from: '12:00', to: '13:00', zone: 'UTC' };
  expect(quietNow(noon, '2026-03-09T12:59:00Z')).toBe(true);
  expect(quietNow(noon, '2026-03-09T13:00:00Z')).toBe(false);
  expect(quietNow({ ...noon, to: '12:00' }, '2026-03-09T12:00:00Z')).toBe(false);
});
