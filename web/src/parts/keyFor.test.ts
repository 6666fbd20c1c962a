import { keyFor } from './keyFor';

test('a key has the letters of the name, and a number where it is taken', () => {
  expect(keyFor('Harbour Office', 'address', [])).toBe('harbour-office');
  expect(keyFor('Caf\u00e9 2', 'role', [{ key: 'cafe-2' }, { key: 'cafe-2-2' }])).toBe('cafe-2-3');
  expect(keyFor('42', 'role', [])).toBe('role');
});
