import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import type { ReconcileRecordPage, ReconcileView, RuleView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(180_000);
let world: World;
beforeAll(async () => {
  // The workers are processes of their own here, so that they can be killed.
  world = await World.start({ ROLE: 'api' });
});
afterAll(() => world.stop());

const person = async (id: string) =>
  (await world.ask<Record<string, unknown>>('customer-book', 'GET', `/api/people/${id}`)).body;
const end = async (worker: ChildProcess, signal: NodeJS.Signals) => {
  worker.kill(signal);
  await once(worker, 'exit');
};
const view = async (id: string) => (await world.api<ReconcileView>('GET', `/reconciles/${id}`)).body;
const records = async (id: string, filter: string) => {
  const all: ReconcileRecordPage['records'][number][] = [];
  for (let from: string | null = '0'; from !== null;) {
    const page: ReconcileRecordPage = (
      await world.api<ReconcileRecordPage>('GET', `/reconciles/${id}/records?${filter}&from=${from}`)
    ).body;
    all.push(...page.records);
    from = page.next;
  }
  return all;
};
const nameOnPeople = async () => {
  const rule = (await world.api<RuleView[]>('GET', '/rules')).body.find(
    ({ draft }) => draft.name === 'Company name on its people',
  );
  if (!rule) throw new Error('the rule is gone');
  return rule.id;
};

test('what exists is brought into line once, though workers are killed ten times and somebody else writes in between', async () => {
  const rule = await nameOnPeople();
  const { status, body } = await world.api<{ id: string }>('POST', '/reconciles', { rule });
  expect(status).toBe(202);
  let worker = await world.worker();
  await until('the look', async () => (await view(body.id)).look?.state === 'done');
  const found = await records(body.id, 'standing=changes');
  expect(found.length).toBe((await view(body.id)).counts.changes);
  expect(found.length).toBeGreaterThan(100);
  const revisions = new Map(
    await Promise.all(
      found.map(async ({ recordId }) => [recordId, Number((await person(recordId))['revision'])] as const),
    ),
  );
  // So slow that the writing is caught in its middle again and again.
  await world.ask('customer-book', 'PUT', '/dials', { latencyMs: 60 });
  await end(worker, 'SIGTERM');
  const [byHand, elsewhere] = [found.at(-1)?.recordId ?? '', found.at(-2)?.recordId ?? ''];
  await world.ask('customer-book', 'PATCH', `/api/people/${byHand}`, { company_name: 'By Hand' });
  await world.ask('customer-book', 'PATCH', `/api/people/${elsewhere}`, { role: 'Stores' });
  const begun = await world.api<{ count: number }>('POST', `/reconciles/${body.id}/writes`, {
    filter: { standing: 'changes' },
  });
  expect(begun.body.count).toBe(found.length);
  for (let kills = 0; kills < 10; kills++) {
    worker = await world.worker();
    await new Promise((done) => setTimeout(done, 60 * (kills % 5)));
    await end(worker, 'SIGKILL');
  }
  await world.ask('customer-book', 'PUT', '/dials', { latencyMs: 0 });
  worker = await world.worker();
  await until('the writing', async () => (await view(body.id)).writing?.state === 'done');
  const done = await view(body.id);
  expect([done.written, done.skipped, done.failed]).toEqual([found.length - 1, 1, 0]);
  for (const { recordId, differences, run, skipped } of await records(body.id, 'standing=changes')) {
    const now = await person(recordId);
    if (recordId === byHand) {
      expect([now['company_name'], run, skipped]).toEqual(['By Hand', null, expect.any(String)]);
      continue;
    }
    expect([recordId, now['company_name']]).toEqual([recordId, differences[0]?.after]);
    // Written once: its revision went up by one, and by one more where somebody else wrote.
    const wrote = Number(now['revision']) - (revisions.get(recordId) ?? 0);
    expect([recordId, wrote]).toEqual([recordId, recordId === elsewhere ? 2 : 1]);
  }
  const again = await world.api<{ id: string }>('POST', '/reconciles', { rule });
  await until('the second look', async () => (await view(again.body.id)).look?.state === 'done');
  expect((await view(again.body.id)).counts.changes).toBe(0);
  await end(worker, 'SIGTERM');
});

test('what cannot be looked at or written is refused with the reason', async () => {
  const rule = await nameOnPeople();
  const refused = async (method: string, path: string, asked: unknown) => {
    const { status, body } = await world.api<{ detail: string }>(method, path, asked);
    return [status, body.detail];
  };
  expect(await refused('POST', '/reconciles', { rule: '00000000-0000-4000-8000-000000000000' })).toEqual([
    404,
    expect.stringContaining('rule'),
  ]);
  expect(await refused('POST', '/reconciles', { rule, existing: 'whatever' })).toEqual([
    422,
    expect.stringContaining('existing'),
  ]);
  const [first] = (await world.api<ReconcileView[]>('GET', `/reconciles?rule=${rule}`)).body;
  expect(first?.ruleName).toBe('Company name on its people');
  expect(await refused('POST', `/reconciles/${first?.id}/writes`, { filter: {} })).toEqual([
    409,
    'None of these records would change, or all of them are written.',
  ]);
  expect(await refused('GET', `/reconciles/${first?.id}/records?before=%7B`, undefined)).toEqual([
    422,
    expect.stringContaining('“before” is not JSON'),
  ]);
  expect(await refused('GET', '/reconciles/none', undefined)).toEqual([404, expect.any(String)]);
});
