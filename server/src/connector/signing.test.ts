import { createHmac } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import { signingSchema, type Signing } from '@vast-knot/core';
import { notSigned } from './signing';

const now = new Date('2026-03-09T10:00:00Z');
const signing = (json: object) => {
  const { error, value } = signingSchema.validate(json);
  if (error) throw error;
  return value as Signing;
};
const check = (how: object, headers: Record<string, string>, body = '{"id":1}', secret = 'key') =>
  notSigned(signing(how), secret, { headers, body, now });

describe('an HMAC in a header', () => {
  const how = { kind: 'hmac', header: 'X-Signature' };

  // RFC 4231, 4.3 (test case 2): key "Jefe", data "what do ya want for nothing?".
  const text = 'what do ya want for nothing?';
  const sha256 = '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843';
  const sha512 =
    '164b7a7bfcf819e2e395fbe73b56e0a387bd64222e831fd610270cd7ea2505549758bf75c05a994a6d034f65f8f0e6fdcaeab1a34d4a6b4b636e070a38bce737';

  test.each([
    ['RFC 4231 with SHA-256', how, sha256],
    ['in capitals', how, sha256.toUpperCase()],
    ['RFC 4231 with SHA-512', { ...how, hash: 'sha512' }, sha512],
    ['in base64', { ...how, encoding: 'base64' }, Buffer.from(sha256, 'hex').toString('base64')],
    ['behind a prefix', { ...how, prefix: 'sha256=' }, `sha256=${sha256}`],
  ])('%s is taken', (_name, style, signature) => {
    expect(check(style, { 'x-signature': signature }, text, 'Jefe')).toBeUndefined();
  });

  // RFC 2202, 3 (test case 2): the same with SHA-1.
  test('RFC 2202 with SHA-1 is taken', () => {
    const headers = { 'x-signature': 'effcdf6ae5eb2fa2d27416d5f184df9c259a7c79' };
    expect(check({ ...how, hash: 'sha1' }, headers, text, 'Jefe')).toBeUndefined();
  });

  test.each([
    ['missing', {}, 'The signature is missing (X-Signature).'],
    ['of another body', { 'x-signature': sha256 }, 'The signature in X-Signature is wrong.'],
    ['empty', { 'x-signature': '' }, 'The signature in X-Signature is wrong.'],
  ])('one that is %s is refused with the reason', (_name, headers, because) => {
    expect(check(how, headers, 'another body', 'Jefe')).toBe(because);
  });

  test('the time of sending is part of what is signed, and may not be old', () => {
    const timed = { ...how, signed: '{time}.{body}', time: { header: 'X-Time', seconds: 60 } };
    const sent = (at: string) => ({
      'x-time': at,
      'x-signature': createHmac('sha256', 'key').update(`${at}.{"id":1}`).digest('hex'),
    });
    const seconds = (ago: number) => String(now.getTime() / 1000 - ago);
    expect(check(timed, sent(seconds(59)))).toBeUndefined();
    expect(check(timed, sent('2026-03-09T11:00:30+01:00'))).toBeUndefined();
    expect(check(timed, sent(seconds(61)))).toMatch(/^It was sent more than 60 seconds ago/);
    expect(check(timed, sent(seconds(-61)))).toMatch(/by a clock that is wrong/);
    expect(check(timed, sent('soon'))).toBe('The time of sending in X-Time is not understood.');
    expect(check(timed, { ...sent(seconds(1)), 'x-time': seconds(2) })).toMatch(/is wrong/);
  });

  test('a body with the words of the template in it is signed as it is', () => {
    const body = 'a {time} and a {body}';
    const signature = createHmac('sha256', 'key').update(`v1:${body}`).digest('hex');
    expect(check({ ...how, signed: 'v1:{body}' }, { 'x-signature': signature }, body)).toBeUndefined();
  });
});

test('a shared token is compared as a whole', () => {
  const how = { kind: 'token', header: 'Authorization', prefix: 'Bearer ' };
  expect(check(how, { authorization: 'Bearer key' })).toBeUndefined();
  expect(check(how, { authorization: 'Bearer ke' })).toBe('The token in Authorization is wrong.');
  expect(check(how, {})).toBe('The token is missing (Authorization).');
});

test('Standard Webhooks is taken as its own package signs it', () => {
  const secret = 'whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw';
  const at = new Date();
  const headers = {
    'webhook-id': 'm1',
    'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
    'webhook-signature': new Webhook(secret).sign('m1', at, 'body'),
  };
  expect(check({ kind: 'standard webhooks' }, headers, 'body', secret)).toBeUndefined();
  expect(check({ kind: 'standard webhooks' }, headers, 'other', secret)).toMatch(/^The signature is wrong/);
});

test('without a secret nothing is taken, and with “none” anything', () => {
  expect(check({ kind: 'token', header: 'X-Token' }, { 'x-token': '' }, '', '')).toBe(
    'This system has no signing secret yet.',
  );
  expect(check({ kind: 'none' }, {}, '', '')).toBeUndefined();
});

test.each([
  [{ kind: 'hmac' }],
  [{ kind: 'hmac', header: 'X: Y' }],
  [{ kind: 'hmac', header: 'X', signed: 'nothing' }],
  [{ kind: 'hmac', header: 'X', hash: 'md5' }],
  [{ kind: 'token' }],
  [{ kind: 'trust me' }],
])('%p is refused', (json) => {
  expect(() => signing(json)).toThrow();
});
