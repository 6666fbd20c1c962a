import { screen, waitFor } from '@testing-library/react';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const rule = viewOf(ruleWith([]));

test('the places stand in the bar, and the one at hand is marked', async () => {
  new FakeServer(worldAnswers(rule, []));
  const { user } = openApp('/rules');
  const rules = await screen.findByRole('link', { name: 'Rules' });
  expect(rules.getAttribute('aria-current')).toBe('page');
  await user.click(screen.getByRole('link', { name: 'Tables' }));
  await waitFor(() =>
    expect(screen.getByRole('link', { name: 'Tables' }).getAttribute('aria-current')).toBe('page'),
  );
  expect(window.location.pathname).toBe('/tables');
});

test('who may only look is told so in the bar', async () => {
  new FakeServer(worldAnswers(rule, [], 'viewer'));
  openApp('/rules');
  expect((await screen.findByText(/Mara/)).textContent).toBe('Mara (may read)');
});

test('who cannot be signed out is told that the session is still open', async () => {
  const detail = 'The database does not answer.';
  const server = new FakeServer({
    ...worldAnswers(rule, []),
    'DELETE /session': new FakeResponse(503, { status: 503, title: 'Not available', detail }),
  });
  const { user } = openApp('/rules');
  await user.click(await screen.findByRole('button', { name: 'Sign out' }));
  expect((await screen.findByRole('alert')).textContent).toBe(`Still signed in: ${detail}`);
  expect(server.of('DELETE', '/session')).toHaveLength(1);
});

test('an address that leads nowhere says so, and leads back', async () => {
  new FakeServer(worldAnswers(rule, []));
  openApp('/nowhere');
  expect(await screen.findByText(/The address leads nowhere/)).toBeTruthy();
});

test.each(['/bench/new', '/systems/connect', '/rules/new'])(
  'who may only look is told so at %s, also when the address is typed in',
  async (path) => {
    const server = new FakeServer(worldAnswers(rule, [], 'viewer'));
    openApp(path);
    expect(
      await screen.findByText(/This is not for you to do|You may not make rules/, undefined, {
        timeout: 10_000,
      }),
    ).toBeTruthy();
    expect(server.asked.filter(({ method }) => method !== 'GET')).toEqual([]);
  },
);
