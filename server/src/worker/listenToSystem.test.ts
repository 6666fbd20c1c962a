import type { Listening } from '@vast-knot/core';
import { dueNow, nextLook } from './listenToSystem';

const now = new Date('2026-03-09T12:00:00Z');
const ago = (seconds: number) => new Date(now.getTime() - seconds * 1000);
const asked = {
  parameters: { since: '{since}' },
  field: 'at',
  form: 'date-time',
  overlapSeconds: 60,
  everySeconds: 60,
} as const;
const heard = (more: object) => ({
  recordType: 'pier',
  mark: null,
  askedAt: null,
  comparedAt: null,
  ...more,
});

test.each<[string, Listening, object | undefined, 'asked' | 'compared' | undefined]>([
  ['neither asked nor compared is left to what the system tells', {}, undefined, undefined],
  ['what was never seen is compared once, to learn it', { asked }, undefined, 'compared'],
  ['with a mark it is asked what changed since', { asked }, { mark: 7 }, 'asked'],
  ['and not again before its time', { asked }, { mark: 7, askedAt: ago(59) }, undefined],
  ['and then again', { asked }, { mark: 7, askedAt: ago(60) }, 'asked'],
  ['an empty list gives no mark, and is compared again', { asked }, { comparedAt: ago(61) }, 'compared'],
  [
    'what is compared every hour is compared',
    { compared: { everySeconds: 3600 } },
    { comparedAt: ago(3600) },
    'compared',
  ],
  ['and not before', { compared: { everySeconds: 3600 } }, { comparedAt: ago(3599) }, undefined],
  [
    'of both, comparing comes first when it is time: it finds what is gone as well',
    { asked, compared: { everySeconds: 3600 } },
    { mark: 7, askedAt: ago(70), comparedAt: ago(4000) },
    'compared',
  ],
  [
    'and asking in between',
    { asked, compared: { everySeconds: 3600 } },
    { mark: 7, askedAt: ago(70), comparedAt: ago(400) },
    'asked',
  ],
])('%s', (_what, listening, known, due) => {
  expect(dueNow(listening, known && heard(known), now)).toBe(due);
});

test('the next look is when the first of both is due', () => {
  expect(nextLook({ asked, compared: { everySeconds: 30 } }, now)).toEqual(new Date('2026-03-09T12:00:30Z'));
  expect(nextLook({}, now)).toBeUndefined();
});
