import type { CloudEventsTelling } from '@vast-knot/core';
import { readEvent } from './readEvent';

const style: CloudEventsTelling = {
  kind: 'cloud events',
  types: {
    'desk.booking.updated': { recordType: 'booking', kind: 'updated' },
    'desk.booking.deleted': { recordType: 'booking', kind: 'deleted' },
  },
  record: '/payload/now',
  before: '/payload/was',
  changed: '/payload/fields',
};
const ids = new Map([['booking', 'number']]);
const headers = { 'content-type': 'application/cloudevents+json' };
const message = (more: Record<string, unknown> = {}) =>
  JSON.stringify({
    specversion: '1.0',
    id: 'e-1',
    source: '/desk',
    type: 'desk.booking.updated',
    time: '2026-03-09T09:00:00Z',
    data: {
      payload: { now: { number: 7, state: 'open' }, was: { number: 7, state: 'held' }, fields: ['state', 4] },
    },
    ...more,
  });
const read = (body: string) =>
  readEvent({
    system: 'desk',
    style,
    idFields: ids,
    headers,
    body,
    receivedAt: new Date('2026-03-10T10:00:00Z'),
  });

test('record, before and changed stand where the connection says', () => {
  expect(read(message())).toEqual({
    ok: true,
    event: {
      id: 'e-1',
      source: '/desk',
      kind: 'updated',
      ref: { system: 'desk', recordType: 'booking', id: '7' },
      time: '2026-03-09T09:00:00Z',
      record: { number: 7, state: 'open' },
      before: { number: 7, state: 'held' },
      claimed: ['state'],
    },
  });
});

test('the kind comes from the event type', () => {
  expect(read(message({ type: 'desk.booking.deleted' }))).toMatchObject({
    ok: true,
    event: { kind: 'deleted' },
  });
});

test.each([
  [
    'a type that means nothing',
    { type: 'toString' },
    'The event type “toString” means nothing in the connection of desk.',
  ],
  ['no record', { data: { payload: {} } }, 'The event e-1 has no record at /payload/now of its data.'],
  [
    'no id anywhere',
    { data: { payload: { now: { state: 'open' } } } },
    'The event e-1 does not say which booking it is about.',
  ],
  ['a subject that is another record', { subject: '8' }, 'The event e-1 is about 8, and its record is 7.'],
])('%s is said in a sentence', (_name, more, because) => {
  expect(read(message(more))).toEqual({ ok: false, because });
});

test('an event that does not say when it happened, happened when it came', () => {
  const result = read(message({ time: undefined }));
  expect(result.ok && result.event.time).toBe('2026-03-10T10:00:00.000Z');
});
