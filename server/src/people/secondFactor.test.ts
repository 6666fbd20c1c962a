import { Secret } from 'otpauth';
import { newSecret, stepOf } from './secondFactor';

/** RFC 6238, appendix B: the secret of its table for SHA-1, and the last six of its eight digits. */
const secret = Secret.fromUTF8('12345678901234567890').base32;
const table = [
  [59, '287082'],
  [1_111_111_109, '081804'],
  [1_111_111_111, '050471'],
  [1_234_567_890, '005924'],
  [2_000_000_000, '279037'],
  [20_000_000_000, '353130'],
] as const;

test.each(table)('at %i s the code of RFC 6238 is taken', (seconds, code) => {
  expect(stepOf(secret, code, { now: seconds * 1000, after: 0 })).toBe(Math.floor(seconds / 30));
});

test('the code of the step before and after is taken, and none that is older', () => {
  const at = (seconds: number) => stepOf(secret, '081804', { now: seconds * 1000, after: 0 });
  const step = Math.floor(1_111_111_109 / 30);
  expect([at(step * 30 - 30), at(step * 30 + 30)]).toEqual([step, step]);
  expect([at(step * 30 - 61), at(step * 30 + 60)]).toEqual([undefined, undefined]);
});

test('a code is taken once, and none of an earlier step after it', () => {
  const step = Math.floor(1_111_111_109 / 30);
  expect(stepOf(secret, '081804', { now: 1_111_111_109_000, after: step })).toBeUndefined();
  expect(stepOf(secret, '081804', { now: 1_111_111_109_000, after: step - 1 })).toBe(step);
});

test('a new secret has 160 bits and another one each time, and its address says whose it is', () => {
  const one = newSecret('mara');
  expect(Secret.fromBase32(one.secret).bytes).toHaveLength(20);
  expect(one.secret).not.toBe(newSecret('mara').secret);
  expect(new URL(one.uri).searchParams.get('secret')).toBe(one.secret);
  expect(decodeURIComponent(one.uri)).toContain('Vast Knot:mara');
});
