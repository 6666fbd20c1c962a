import { scryptSync } from 'node:crypto';
import { hashPassword, isFormer, passwordMatches, passwordProblem } from './passwords';

test('a password is kept by argon2id, with a salt of its own, and matches itself alone', async () => {
  const kept = await hashPassword('four grey gulls on deck');
  expect(kept).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
  expect(kept).not.toBe(await hashPassword('four grey gulls on deck'));
  expect(await passwordMatches('four grey gulls on deck', kept)).toBe(true);
  expect(await passwordMatches('four grey gulls on dock', kept)).toBe(false);
  expect(await passwordMatches('four grey gulls on deck', undefined)).toBe(false);
});

test('what the reference program of Argon2 made is read', async () => {
  // The test of argon2id in the sources of the reference program (phc-winner-argon2, src/test.c); the value comes from memory, as hexadecimal.
  const kept = '$argon2id$v=19$m=65536,t=2,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc';
  expect(await passwordMatches('password', kept)).toBe(true);
  expect(await passwordMatches('passwore', kept)).toBe(false);
});

test('what was kept by scrypt before is still known', async () => {
  const salt = Buffer.from('0123456789abcdef');
  const kept = `${salt.toString('base64')}:${scryptSync('harbour-light-9', salt, 32).toString('base64')}`;
  expect([isFormer(kept), isFormer(await hashPassword('harbour-light-9'))]).toEqual([true, false]);
  expect(await passwordMatches('harbour-light-9', kept)).toBe(true);
  expect(await passwordMatches('harbour-light-8', kept)).toBe(false);
});

test('the same characters are the same password, however they are composed', async () => {
  expect(await passwordMatches('caf\u00e9 at the pier', await hashPassword('cafe\u0301 at the pier'))).toBe(
    true,
  );
});

test.each([
  ['short', 'short one', 'at least 12 characters; this has 9'],
  ['counted by what is seen', '\u{1F6A2}'.repeat(11), 'this has 11'],
  ['common', 'qwertyuiop123', 'tried first'],
  ['common with digits and signs around it', '!!Password2026', 'tried first'],
  ['common, twice', 'sunshinesunshine', 'tried first'],
  ['the name', 'mara.skerry-2026', 'your name'],
  ['few characters', 'ababababababab', 'few characters'],
  ['long', 'long '.repeat(50), 'at most 200'],
])('a password that is %s is refused', (_what, password, because) => {
  expect(passwordProblem(password, 'mara.skerry')).toContain(because);
});

test.each(['four grey gulls on deck', 'x7#Rq-pl0v2!k', 'tide tables and rope'])('%s is taken', (password) => {
  expect(passwordProblem(password, 'mara')).toBeUndefined();
});
