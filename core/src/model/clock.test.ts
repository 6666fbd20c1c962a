import { isDue, isZone } from './clock';

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
