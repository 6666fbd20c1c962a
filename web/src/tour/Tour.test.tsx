import { screen, waitFor } from '@testing-library/react';
import { ruleWith } from '../work/testWorld';
import { FakeServer, openApp, viewOf, worldAnswers, type Asked } from '../testing/app';
import { tourSteps } from './steps';

beforeEach(() => localStorage.clear());
const rule = viewOf(ruleWith([]));

function open(habits: object = {}) {
  const answers = worldAnswers(rule, []);
  const server = new FakeServer({
    ...answers,
    'GET /session': { ...(answers['GET /session'] as object), habits },
    'PUT /session/habits': ({ body }: Asked) => ({ ...(answers['GET /session'] as object), habits: body }),
    'GET /today': {
      has: { systems: true, rules: true, runs: true },
      needs: { failures: [], away: [], messages: 0, outOfLine: [], drafts: [], paused: [] },
      happened: { hours: [], times: null, rules: [], publications: [] },
    },
  });
  return { server, ...openApp('/rules?search=none') };
}

test('six steps lead through one change: the record, the rule, the bench, the runs, and taking back', () => {
  const steps = tourSteps([rule]);
  expect(steps.map(({ path }) => path)).toEqual([
    '/today',
    '/records?left=book/company&right=desk/party',
    '/rules/r',
    '/bench',
    rule.published ? '/runs?rule=r' : '/runs',
    '/rules/r/take-back',
  ]);
  // Where there is no rule yet, it leads to where one is made.
  expect(tourSteps([])[2]?.path).toBe('/rules/new');
});

test('it is begun from what there is to know of a place, goes on and back, survives a reload, and is left at any time', async () => {
  const { server, user, ...shown } = open({ form: 'figures alone' });
  await user.click(await screen.findByRole('button', { name: 'About this place' }, { timeout: 10_000 }));
  await user.click(await screen.findByRole('button', { name: /in six steps/ }));
  expect(await screen.findByRole('heading', { name: /^Step 1 of 6: How things stand/ })).toBeTruthy();
  await user.click(screen.getByRole('button', { name: /^Next/ }));
  expect(window.location.pathname).toBe('/records');
  expect(await screen.findByRole('heading', { name: /^Step 2 of 6/ })).toBe(document.activeElement);
  await user.click(screen.getByRole('button', { name: 'Back' }));
  expect(await screen.findByRole('heading', { name: /^Step 1 of 6/ })).toBeTruthy();
  shown.unmount();
  const again = open({ form: 'figures alone' });
  await screen.findByRole('heading', { name: /^Step 1 of 6/ }, { timeout: 10_000 });
  await again.user.click(screen.getByRole('button', { name: 'Leave' }));
  await waitFor(() => expect(screen.queryByRole('heading', { name: /^Step/ })).toBeNull());
  // It is not offered again, and how the person reads stays.
  expect(again.server.of('PUT', '/session/habits').at(-1)?.body).toEqual({
    form: 'figures alone',
    visited: true,
  });
  expect(server.of('PUT', '/session/habits')).toHaveLength(0);
});
