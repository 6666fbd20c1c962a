import { screen, waitFor } from '@testing-library/react';
import type { ChangeEvent, RunDetail, RunPage, RunSummary, WriteView } from '@vast-knot/core';
import { FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const summary = (id: string, change: Partial<RunSummary> = {}): RunSummary => ({
  id,
  system: 'book',
  ref: { system: 'book', recordType: 'company', id: `C${id}` },
  recordName: `Company ${id}`,
  kind: 'updated',
  changed: ['town'],
  state: 'done',
  result: 'wrote',
  because: '1 record written.',
  writes: 1,
  rules: ['Company to party'],
  receivedAt: '2026-03-09T10:00:00Z',
  finishedAt: '2026-03-09T10:00:01Z',
  attempts: 1,
  nextAt: null,
  waitsFor: null,
  ...change,
});
const event: ChangeEvent = {
  id: 'e-7',
  source: '/book',
  kind: 'updated',
  ref: { system: 'book', recordType: 'company', id: 'C7' },
  time: '2026-03-09T10:00:00Z',
  record: { id: 'C7', name: 'Fish', town: 'Murrow' },
  before: { id: 'C7', name: 'Fish', town: 'Northport' },
  changed: ['town'],
};
const detail = (change: Partial<RunDetail> = {}): RunDetail => ({
  ...summary('7'),
  eventId: 'e-7',
  computedAt: null,
  source: '/book',
  event,
  report: null,
  outcome: [],
  progress: null,
  newer: null,
  body: null,
  ...change,
});

// Without a layout there is no height, and what is out of sight is not drawn.
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { value: 900 });
});

function open(at: string, answers: Readonly<Record<string, unknown>>, role?: string) {
  const server = new FakeServer({ ...worldAnswers(viewOf(ruleWith([])), [], role), ...answers });
  return { server, ...openApp(at) };
}

const page = (...runs: RunSummary[]): RunPage => ({ runs, next: null });

test('each run says what came in, what it did, and why not', async () => {
  const runs = [
    summary('9'),
    summary('8', { result: 'nothing', because: 'None of 4 rules was started.' }),
    summary('7', { state: 'waiting', result: null, attempts: 2, because: 'desk does not answer.' }),
    summary('6', { state: 'malformed', result: null, ref: null, recordName: null, kind: null }),
  ];
  open('/runs', { 'GET /runs': page(...runs) });
  const rows = await screen.findAllByRole('listitem');
  await screen.findAllByText('BK');
  const told = rows.map((row) => row.textContent);
  expect(told[0]).toContain('BK Company 9 C9 updatedwrote1 record written.');
  expect(told[1]).toContain('nothing to doNone of 4 rules was started.');
  expect(told[2]).toContain('will be tried againdesk does not answer.');
  expect(told[3]).toContain('message');
  expect(told[3]).toContain('not understood');
});

test('what is searched and chosen is asked of the server, one outcome at a time', async () => {
  const { user, server } = open('/runs', { 'GET /runs': page(summary('9')) });
  await user.type(await screen.findByLabelText('Search runs'), 'C9');
  await user.click(screen.getByRole('combobox', { name: 'Outcome' }));
  await user.click(await screen.findByRole('option', { name: 'Partly failed', hidden: true }));
  await waitFor(() =>
    expect(screen.getByRole<HTMLInputElement>('combobox', { name: 'Outcome' }).value).toBe('Partly failed'),
  );
  expect(server.of('GET', '/runs').length).toBeGreaterThan(1);
  expect(screen.getByRole('listitem').querySelector('a')?.getAttribute('href')).toBe(
    '/runs/9?search=C9&result=partly+failed',
  );
});

test('before anything came in the page says what to do', async () => {
  open('/runs', { 'GET /runs': page() });
  expect(await screen.findByText('No run yet')).toBeTruthy();
});

test('a run that waits says when it is tried next, and is tried at once by a press', async () => {
  const { user, server } = open('/runs/7', {
    'GET /runs': page(),
    'GET /runs/7': detail({
      state: 'waiting',
      result: null,
      attempts: 3,
      because: 'desk does not answer.',
      nextAt: '2026-03-09T10:05:00Z',
    }),
    'POST /runs/7/retry': {},
  });
  expect((await screen.findByText(/^desk does not answer\./)).textContent).toMatch(
    /Next try at .*, after 3\.$/,
  );
  await user.click(screen.getByRole('button', { name: 'Try again now' }));
  await waitFor(() => expect(server.of('POST', '/runs/7/retry')).toHaveLength(1));
});

test('a run at work says how far it is, and is stopped by a press', async () => {
  const { user, server } = open('/runs/7', {
    'GET /runs': page(),
    'GET /runs/7': detail({ state: 'waiting', result: null, progress: { written: 1200, planned: 3000 } }),
    'POST /runs/7/stop': {},
  });
  expect(await screen.findByText(/1,200 of 3,000 records written/)).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Stop this run' }));
  expect(await screen.findByRole('button', { name: 'Stops after the writes on their way' })).toBeTruthy();
  expect(server.of('POST', '/runs/7/stop')).toHaveLength(1);
});

test('what came in is shown with what it was before', async () => {
  open('/runs/7', { 'GET /runs': page(), 'GET /runs/7': detail() });
  const came = await screen.findByRole('region', { name: 'What came in' });
  expect(came.textContent).toContain('Northport→Murrow');
});

test('a message that could not be read is shown as it came', async () => {
  const body = '{"specversion": "1.0", "type": 4}';
  open('/runs/6', {
    'GET /runs': page(),
    'GET /runs/6': detail({ ref: null, event: null, state: 'malformed', result: null, body }),
  });
  expect(await screen.findByText(body)).toBeTruthy();
});

test('a reader looks at runs and can neither stop nor repeat them', async () => {
  open(
    '/runs/7',
    {
      'GET /runs': page(),
      'GET /runs/7': detail({ state: 'waiting', result: null, progress: { written: 1, planned: 3 } }),
    },
    'viewer',
  );
  expect(await screen.findByText(/1 of 3 records written/)).toBeTruthy();
  expect(screen.queryByRole('button', { name: /Stop|Try again|Replay/ })).toBeNull();
});

test('what was written is read back, and a field that never arrived is told', async () => {
  const ref = { system: 'desk', recordType: 'party', id: 'P1' };
  const written: WriteView = {
    change: { kind: 'edit', ref, edits: [{ path: 'zone', before: 'N1', after: 'S1' }] },
    rules: [{ id: 'r', version: 1, name: 'Company to party' }],
    depth: 0,
    before: { id: 'P1', number: 'C7', zone: 'N1' },
    plan: 1,
    state: 'written',
    problem: null,
  };
  const report = { event, rules: [], writes: [written], messages: [], waiting: [], problems: [] };
  const field = { path: 'zone', written: 'S1', now: 'N1', standing: 'never arrived', by: null };
  const { user } = open('/runs/7', {
    'GET /runs': page(),
    'GET /runs/7': detail({ report, outcome: [written] }),
    'GET /runs/7/verify': [{ ref, fields: [field], problem: null }],
  });
  const outcome = await screen.findByRole('region', { name: 'Outcome' });
  expect(outcome.textContent).toContain('zoneN1S1');
  expect(outcome.textContent).toContain('by Company to party');
  await user.click(screen.getByRole('button', { name: 'Read the records back' }));
  expect(await screen.findByText('1 field: never arrived')).toBeTruthy();
});
