import { screen, waitFor } from '@testing-library/react';
import type { JobView } from '@vast-knot/core';
import { FakeResponse, FakeServer, show } from '../testing/app';
import { JobBar } from './JobBar';

const job: JobView = {
  id: 'j1',
  kind: 'history comparison',
  state: 'at work',
  done: 250,
  total: 1000,
  askedBy: 'Mara',
  problem: null,
  waits: null,
  createdAt: '2026-03-09T10:00:00Z',
  finishedAt: null,
};
const bar = (change: Partial<JobView> = {}, changed = jest.fn()) => (
  <JobBar job={{ ...job, ...change }} what="Events compared" changed={changed} />
);

test('work that goes on tells how far it has come, and can be paused and stopped', async () => {
  const server = new FakeServer({ 'POST /jobs/j1/pause': {} });
  const changed = jest.fn();
  const { user } = show(bar({}, changed));
  expect(screen.getByText('at work, 250 of 1,000')).toBeTruthy();
  expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('25');
  await user.click(screen.getByRole('button', { name: 'Pause' }));
  await waitFor(() => expect(changed).toHaveBeenCalled());
  expect(server.of('POST', '/jobs/j1/pause')).toHaveLength(1);
});

test.each<[JobView['state'], readonly string[]]>([
  ['waiting', ['Pause', 'Stop']],
  ['at work', ['Pause', 'Stop']],
  ['paused', ['Go on', 'Stop']],
  ['cancelled', []],
  ['failed', []],
])('work that is %s offers %j', (state, offers) => {
  new FakeServer();
  show(bar({ state }));
  expect(screen.queryAllByRole('button').map((button) => button.textContent)).toEqual(offers);
});

test('who may not steer sees how far it has come, and nothing to press', () => {
  new FakeServer();
  show(bar(), ['jobs.read']);
  expect(screen.getByText(/250 of 1,000/)).toBeTruthy();
  expect(screen.queryAllByRole('button')).toEqual([]);
});

test('what failed says why, and what cannot be asked now says so', async () => {
  new FakeServer({
    'POST /jobs/j1/cancel': new FakeResponse(409, {
      status: 409,
      title: 'Ended',
      detail: 'The job has ended already.',
    }),
  });
  const { user, unmount } = show(bar());
  await user.click(screen.getByRole('button', { name: 'Stop' }));
  expect((await screen.findByRole('alert')).textContent).toBe('The job has ended already.');
  unmount();
  show(bar({ state: 'failed', problem: 'The tide is out.' }));
  expect(screen.getByRole('alert').textContent).toBe('The tide is out.');
});
