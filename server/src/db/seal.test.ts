import { createCipheriv, randomBytes } from 'node:crypto';
import { Seal } from './seal';

const newKey = () => randomBytes(32).toString('base64');
const key = newKey();
const place = 'system freight-desk token';

test('what was sealed is opened again, and looks like nothing in between', () => {
  const sealed = new Seal(key).seal('whsec_ferry', place);
  expect(sealed.toString('latin1')).not.toContain('ferry');
  expect(new Seal(key).open(sealed, place)).toBe('whsec_ferry');
});

test('another key or a changed byte opens nothing', () => {
  const sealed = new Seal(key).seal('whsec_ferry', place);
  expect(() => new Seal(newKey()).open(sealed, place)).toThrow('another key');
  for (const at of [0, 1, 5, 17, sealed.length - 1]) {
    const changed = Buffer.from(sealed);
    changed[at] = (changed[at] ?? 0) ^ 1;
    expect(() => new Seal(key).open(changed, place)).toThrow('another key');
  }
});

test('what is put into another place does not open there', () => {
  const sealed = new Seal(key).seal('whsec_ferry', place);
  expect(() => new Seal(key).open(sealed, 'system fleet-log token')).toThrow('another place');
});

test('after a change of keys the one before still opens, and whoever has the new one alone opens what is sealed by then', () => {
  const before = new Seal(key).seal('whsec_ferry', place);
  const next = newKey();
  const both = new Seal(next, key);
  expect(both.open(before, place)).toBe('whsec_ferry');
  expect([both.isPresent(before), new Seal(key).isPresent(before)]).toEqual([false, true]);
  const after = both.seal('whsec_ferry', place);
  expect([both.isPresent(after), new Seal(next).open(after, place)]).toEqual([true, 'whsec_ferry']);
});

test('what was sealed before there were places is opened, whatever byte it begins with', () => {
  for (let first = 0; first < 256; first++) {
    const nonce = Buffer.concat([Buffer.of(first), randomBytes(11)]);
    const cipher = createCipheriv('aes-256-gcm', Buffer.from(key, 'base64'), nonce);
    const sealed = Buffer.concat([cipher.update('whsec_ferry', 'utf8'), cipher.final()]);
    const bytes = Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
    expect(new Seal(key).open(bytes, place)).toBe('whsec_ferry');
    expect(new Seal(newKey(), key).open(bytes, place)).toBe('whsec_ferry');
  }
});

test('a key of another length is refused', () => expect(() => new Seal('c2hvcnQ=')).toThrow('32 bytes'));
