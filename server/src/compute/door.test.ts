/** A task in a thread asks through a port what it would otherwise read itself, and gets the same. */
import { MessageChannel } from 'node:worker_threads';
import { WorkspaceError } from '@vast-knot/core';
import { openHarbour, phoneToBookings } from '../fixtures/harbour';
import type { Pool } from '../db/pool';
import { here } from './computer';
import { answer } from './door';
import compute from './thread';
import type { TaskKind, Tasks } from './tasks';

// No task of these reads pairs, which alone are in the database.
const harbour = openHarbour(undefined as unknown as Pool, {
  companies: [{ id: 'C1', name: 'Skerry', phone: '2', town: 'Murrow' }],
  bookings: [{ id: 'B1', name: 'One', company: 'C1', phone: '1', note: '' }],
});
const { registry } = harbour;

/** Does a task on the other side of a port, as a thread does. */
async function across<K extends TaskKind>(kind: K, asked: Tasks[K]['asked'], stamp = registry.stamp) {
  const { port1: ours, port2: port } = new MessageChannel();
  answer(ours, registry, () => undefined);
  try {
    return await compute({ kind, asked, stamp, port });
  } finally {
    ours.close();
  }
}

const event = {
  id: 'e1',
  source: '/book',
  kind: 'updated' as const,
  ref: { system: 'book', recordType: 'company', id: 'C1' },
  time: '2026-03-09T09:00:00Z',
  record: { id: 'C1', name: 'Skerry', phone: '2', town: 'Murrow' },
  before: { id: 'C1', name: 'Skerry', phone: '1', town: 'Murrow' },
  changed: ['phone'],
};

test('what a rule would do is the same on both sides', async () => {
  const asked = { rule: phoneToBookings.id, event };
  const local = await here.run('preview', asked, registry);
  expect(local?.report.writes).toHaveLength(1);
  expect(await across('preview', asked)).toEqual({ answer: local });
});

test('findings, and the records that an event meets, are the same on both sides', async () => {
  const draft = { ...phoneToBookings, version: 0, guard: 'phne = "1"' };
  const check = { rules: [draft], known: [draft] };
  const findings = await here.run('check', check, registry);
  expect(findings[0]?.[0]?.message).toContain('phne');
  expect(await across('check', check)).toEqual({ answer: findings });
  const meet = { event, rules: [phoneToBookings], most: 10 };
  const met = await here.run('meet', meet, registry);
  expect(met.map(({ ref }) => ref.id).sort()).toEqual(['B1', 'C1']);
  expect(await across('meet', meet)).toEqual({ answer: met });
});

test('a rule that is no longer published is not previewed', async () => {
  expect(await across('preview', { rule: 'gone', event })).toEqual({ answer: undefined });
});

test('a thread that has other definitions asks for those of the moment', async () => {
  const asked = { rule: phoneToBookings.id, event };
  await across('preview', asked, 'older');
  const { answer: newer } = (await across('preview', asked, 'newer')) as { answer?: unknown };
  expect(newer).toBeDefined();
});

test('a system that does not answer is told as such, with what it says', async () => {
  jest
    .spyOn(harbour.desk, 'find')
    .mockRejectedValueOnce(
      new WorkspaceError({ code: 'unavailable', message: 'Desk is away.', retry: true }),
    );
  expect(await across('preview', { rule: phoneToBookings.id, event })).toEqual({
    problem: { code: 'unavailable', message: 'Desk is away.', retry: true },
  });
});
