import { readingForms } from '@vast-knot/core';
import { dateFormat, digits, readAs, writtenAs, zoneShown } from './habits';
import { count, minuteTime, shortTime } from './time';

afterEach(() => readAs({}));
const at = '2026-03-09T22:30:05Z';
const plain = (text: string) => text.replaceAll(/[\u00a0\u202f]/g, ' ');

test('times are in the zone of the person, and counts in their form', () => {
  readAs({ zone: 'Pacific/Auckland', form: 'points and commas' });
  expect(plain(shortTime(at))).toBe('10.03., 11:30:05');
  expect(count(12_345, 'record')).toBe('12.345 records');
  readAs({ zone: 'America/New_York', form: 'month first' });
  expect(plain(minuteTime(at))).toBe('Mar 09, 06:30 PM');
  expect(count(12_345, 'record')).toBe('12,345 records');
  readAs({ zone: 'UTC', form: 'figures alone' });
  expect(plain(minuteTime(at))).toBe('03-09 22:30');
  expect(plain(digits(12_345.5))).toBe('12 345,5');
  expect(zoneShown()).toBe('UTC');
});

test('without a word of theirs it is the zone of the browser, and the day stands first', () => {
  expect(zoneShown()).toBe(Intl.DateTimeFormat().resolvedOptions().timeZone);
  readAs({ zone: 'UTC' });
  expect(minuteTime(at)).toBe('09 Mar, 22:30');
});

test('no form writes months in another language, and an example of one changes nothing', () => {
  readAs({ zone: 'UTC' });
  const examples = readingForms.map((form) => writtenAs(form, { at, number: 1234.5 }));
  expect(new Set(examples).size).toBe(readingForms.length);
  for (const example of examples) expect(example.replaceAll(/Mar|PM|AM/g, '')).not.toMatch(/[A-Za-zäé]/);
  expect(minuteTime(at)).toBe('09 Mar, 22:30');
  expect(dateFormat({ month: 'short', year: 'numeric' }).format(new Date(at))).toBe('Mar 2026');
});
