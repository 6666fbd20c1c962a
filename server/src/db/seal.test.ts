import { randomBytes } from 'node:crypto';
import { Seal } from './seal';

const key = randomBytes(32).toString('base64');

test('what was sealed is opened again, and looks like nothing in between', () => {
  const sealed = new Seal(key).seal('whsec_ferry');
  expect(sealed.toString('latin1')).not.toContain('ferry');
  expect(new Seal(key).open(sealed)).toBe('whsec_ferry');
});

test('another key or a changed byte opens nothing', () => {
  const sealed = new Seal(key).seal('whsec_ferry');
  expect(() => new Seal(randomBytes(32).toString('base64')).open(sealed)).toThrow();
  sealed[sealed.length - 1] = (sealed.at(-1) ?? 0) ^ 1;
  expect(() => new Seal(key).open(sealed)).toThrow();
});

test('a key of another length is refused', () => expect(() => new Seal('c2hvcnQ=')).toThrow('32 bytes'));
