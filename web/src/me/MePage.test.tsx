import { screen, waitFor } from '@testing-library/react';
import { ruleWith } from '../work/testWorld';
import {
  FakeResponse,
  FakeServer,
  openApp,
  signedInAs,
  viewOf,
  worldAnswers,
  type Asked,
} from '../testing/app';
import { readAs } from '../parts/habits';

afterEach(() => readAs({}));
const me = signedInAs('viewer');

test('the form that somebody chooses is kept, and counts are shown so at once', async () => {
  const server = new FakeServer(worldAnswers(viewOf(ruleWith([])), []));
  server.answer({ 'PUT /session/habits': ({ body }: Asked) => ({ ...me, habits: body }) });
  const { user } = openApp('/me');
  await user.click(await screen.findByRole('radio', { name: /^points and commas/ }, { timeout: 10_000 }));
  await waitFor(() => expect(screen.getByRole('status').textContent).toContain('a count 12.345,5'));
  expect(server.of('PUT', '/session/habits')[0]?.body).toEqual({ form: 'points and commas' });
});

test('what cannot be kept is told', async () => {
  const server = new FakeServer(worldAnswers(viewOf(ruleWith([])), []));
  const detail = 'The database is away.';
  server.answer({ 'PUT /session/habits': new FakeResponse(503, { status: 503, title: 'Away', detail }) });
  const { user } = openApp('/me');
  await user.click(await screen.findByRole('radio', { name: /^figures alone/ }, { timeout: 10_000 }));
  expect(await screen.findByText(detail)).toBeTruthy();
});
