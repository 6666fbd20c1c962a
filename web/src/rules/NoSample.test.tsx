import { screen, waitFor } from '@testing-library/react';
import type { Sample } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers, type Asked } from '../testing/app';
import { company, line, party, ruleWith, sample } from '../work/testWorld';
import { asIfChanged } from './NoSample';

const rule = viewOf(ruleWith([line('name', 'UPPER(name)')]));

function openSheet(role: 'administrator' | 'viewer' = 'administrator') {
  const view = { ...company('C1', 'Fish', 'Murrow'), version: null };
  const server = new FakeServer({
    ...worldAnswers(rule, [], role),
    'GET /records/book/company': { records: [view], next: null },
    'POST /samples/meet': [company('C1', 'Fish', 'Murrow'), party('P1', 'C1', { name: 'Fish' })],
  });
  return { server, ...openApp('/rules/r') };
}

/** From then on the sample is there. */
const keeps = (server: FakeServer, kept: Sample) => () => {
  server.answer(worldAnswers(rule, [kept]));
  return { id: kept.id };
};

test('without a sample one press on a record that is found by its name makes one, as if what is watched had changed', async () => {
  const { server, user } = openSheet();
  server.answer({ 'POST /samples': keeps(server, sample) });
  await user.type(await screen.findByLabelText('or make one of a company', {}, { timeout: 10_000 }), 'fish');
  await user.click(await screen.findByRole('button', { name: 'Make a sample of Fish' }));
  await waitFor(() => expect(server.of('POST', '/samples')).toHaveLength(1));
  const made = server.of('POST', '/samples')[0]?.body as Sample;
  expect(made.name).toBe('Fish as it is');
  expect(made.event).toMatchObject({ kind: 'updated', changed: ['name', 'town'], ref: { id: 'C1' } });
  expect(made.records.map(({ ref }) => ref.id)).toEqual(['C1', 'P1']);
  // What the rule would write for it shows at once.
  expect((await screen.findAllByLabelText('Present sample')).length).toBeGreaterThan(0);
});

test('the last event that would start the rule is asked for by its kinds and watched fields, and none is told in a sentence', async () => {
  const { server, user } = openSheet();
  let asked = '';
  const fetched = globalThis.fetch;
  globalThis.fetch = (input, init) => {
    if (String(input).includes('/samples/last')) asked = String(input);
    return fetched(input, init);
  };
  server.answer({ 'GET /samples/last': { run: null } });
  const take = await screen.findByRole('button', { name: /Take the last event/ }, { timeout: 10_000 });
  await user.click(take);
  expect(await screen.findByText('No event that would start this rule has come in lately.')).toBeTruthy();
  expect(asked).toContain('system=book&recordType=company&kinds=updated&watched=name%2Ctown');
  server.answer({
    'GET /samples/last': { run: '7' },
    'POST /samples': ({ body }: Asked) => {
      expect(body).toEqual({ run: '7', name: 'Last company updated' });
      return keeps(server, sample)();
    },
  });
  await user.click(take);
  expect((await screen.findAllByLabelText('Present sample')).length).toBeGreaterThan(0);
});

test('what the server refuses is told beside it; somebody who may not make samples is offered none', async () => {
  const { server, user, ...shown } = openSheet();
  const detail = 'Customer Book is not reached.';
  server.answer({ 'POST /samples/meet': new FakeResponse(503, { status: 503, title: 'Away', detail }) });
  await user.click(await screen.findByRole('button', { name: 'Make a sample of Fish' }, { timeout: 10_000 }));
  expect((await screen.findAllByText(detail)).length).toBeGreaterThan(0);
  shown.unmount();
  openSheet('viewer');
  expect(
    await screen.findByText('No sample of this record type is kept yet.', {}, { timeout: 10_000 }),
  ).toBeTruthy();
  expect(screen.queryByRole('button', { name: /Take the last event/ })).toBeNull();
});

test('a record is the event that a rule starts from', () => {
  const { ref, record } = company('C1', 'Fish', 'Murrow');
  expect(asIfChanged({ kinds: ['created', 'updated'], watched: [] }, { ref, record })).toMatchObject({
    kind: 'updated',
    changed: ['id', 'name', 'town', 'chief'],
  });
  expect(asIfChanged({ kinds: ['created'], watched: [] }, { ref, record })).toMatchObject({
    kind: 'created',
    changed: [],
  });
});
