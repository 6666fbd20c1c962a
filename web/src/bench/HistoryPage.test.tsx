import { screen, waitFor, within } from '@testing-library/react';
import type { HistoryView, JobView } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const job: JobView = {
  id: 'j1',
  kind: 'history comparison',
  state: 'done',
  done: 100,
  total: 100,
  askedBy: 'Mara',
  problem: null,
  waits: null,
  createdAt: '2026-03-09T10:00:00Z',
  finishedAt: '2026-03-09T10:00:05Z',
};
const view = (change: Partial<HistoryView> = {}): HistoryView => ({
  job,
  events: 100,
  differing: 0,
  groups: [],
  mistakes: [],
  ...change,
});

function open(at: string, answers: Readonly<Record<string, unknown>> = {}, role?: string) {
  const server = new FakeServer({ ...worldAnswers(viewOf(ruleWith([])), [], role), ...answers });
  return { server, ...openApp(at) };
}

test('the last events are compared as a job, whose result stands in the address', async () => {
  const { server, user } = open('/bench/history?events=100', {
    'POST /history': { id: 'j1' },
    'GET /history/j1': view(),
  });
  await user.click(await screen.findByRole('button', { name: 'Compare' }));
  expect(await screen.findByText('Everything comes out as it did.')).toBeTruthy();
  expect(server.of('POST', '/history')[0]?.body).toEqual({ events: 100 });
});

test('what differs is told by field, with how often and with examples that lead to their runs', async () => {
  open('/bench/history?job=j1', {
    'GET /history/j1': view({
      differing: 1200,
      groups: [
        {
          kind: 'another value',
          about: 'desk/party',
          path: 'zone',
          count: 1200,
          examples: [{ run: '7', key: 'desk/party/P1', now: 'N1', then: 'S1' }],
        },
        {
          kind: 'no longer',
          about: 'desk/party',
          path: '',
          count: 3,
          examples: [{ run: '9', key: 'desk/party/P2', now: 'created' }],
        },
      ],
    }),
  });
  await screen.findAllByText('DK');
  const [, first, second] = screen.getAllByRole('row');
  if (!first || !second) throw new Error('two rows were expected');
  expect(first.textContent).toContain('party zone');
  expect(first.textContent).toContain('another value1,200');
  expect(within(first).getByRole('link').getAttribute('href')).toBe('/runs/7');
  expect(second.textContent).toContain('party as a whole');
  expect(second.textContent).toContain('no change');
  expect(screen.getByText(/100 events compared, 1,200 come out otherwise/)).toBeTruthy();
});

test('a draft with mistakes is named, since it took no part', async () => {
  open('/bench/history?job=j1', { 'GET /history/j1': view({ mistakes: ['Company to party'] }) });
  expect((await screen.findByText('Company to party')).parentElement?.textContent).toBe(
    'Company to party has mistakes as edited and takes no part.',
  );
});

test('while one goes on no other is begun, and what was compared so far is told', async () => {
  open('/bench/history?job=j1', {
    'GET /history/j1': view({ job: { ...job, state: 'at work', done: 40, finishedAt: null }, events: 40 }),
  });
  expect(await screen.findByText('at work, 40 of 100')).toBeTruthy();
  expect(screen.getByText(/40 events compared/)).toBeTruthy();
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Compare' }).disabled).toBe(true);
});

test('what the server refuses is said, and the button can be pressed again', async () => {
  const detail = 'No event has come in yet.';
  const { user } = open('/bench/history', {
    'POST /history': new FakeResponse(409, { status: 409, title: 'Nothing to compare', detail }),
  });
  await user.click(await screen.findByRole('button', { name: 'Compare' }));
  expect((await screen.findByRole('alert')).textContent).toBe(detail);
  await waitFor(() =>
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Compare' }).disabled).toBe(false),
  );
});

test('a reader sees a comparison and can begin none', async () => {
  open('/bench/history?job=j1', { 'GET /history/j1': view() }, 'viewer');
  expect(await screen.findByText('Everything comes out as it did.')).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Compare' })).toBeNull();
});
