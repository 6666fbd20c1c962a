import { nested } from './nearMisses';

test('comparing alike is put around what is compared already', () => {
  expect(nested('TRIM(item)', undefined)).toBe('TRIM(item)');
  expect(nested('TRIM(item)', ' ')).toBe('TRIM(item)');
  expect(nested('LOWER(TRIM(item))', 'EMAILDOMAIN(email)')).toBe('LOWER(TRIM(EMAILDOMAIN(email)))');
  expect(nested('TRIM(item)', 'name & "@"')).toBe('TRIM(name & "@")');
  // What does not parse stays as somebody typed it.
  expect(nested('TRIM(item)', 'UPPER(')).toBe('TRIM(UPPER()');
});

test('a second time takes no step again that was just taken', () => {
  expect(nested('LOWER(TRIM(item))', 'TRIM(item)')).toBe('LOWER(TRIM(item))');
  expect(nested('TRIM(item)', 'TRIM(name)')).toBe('TRIM(name)');
  expect(nested('REGEXREPLACE(FOLD(item), "[^a-z0-9]", "")', 'FOLD(item)')).toBe(
    'REGEXREPLACE(FOLD(item), "[^a-z0-9]", "")',
  );
  expect(nested('SUBSTITUTE(item, "@", "")', 'SUBSTITUTE(item, "@", "")')).toBe('SUBSTITUTE(item, "@", "")');
  // Of other signs each is taken.
  expect(nested('SUBSTITUTE(item, "#", "")', 'SUBSTITUTE(item, "@", "")')).toBe(
    'SUBSTITUTE(SUBSTITUTE(item, "@", ""), "#", "")',
  );
});
