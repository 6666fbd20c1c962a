import { parseLineKey, printLineKey } from './lineKey';

test.each([
  ['0/phone', { action: 0, field: 'phone' }],
  ['2/address.town', { action: 2, field: 'address.town' }],
  ['1/From/To', { action: 1, field: 'From/To' }],
])('%s is a line of an action, and is written back', (text, key) => {
  expect(parseLineKey(text)).toEqual(key);
  expect(printLineKey(key)).toBe(text);
});

test('an address that names no action means the first', () =>
  expect(parseLineKey('phone')).toEqual({ action: 0, field: 'phone' }));
