import { finder } from './finder';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const rule = viewOf(ruleWith([]));
const sightings = {
  places: [
    {
      ref: { system: 'book', recordType: 'company', id: 'C7' },
      name: 'Fish',
      path: 'town',
      value: 'Murrow Bay',
      match: 'part',
    },
  ],
  more: false,
};

function open() {
  const server = new FakeServer({ ...worldAnswers(rule, []), 'GET /values/known': sightings });
  return { server, ...openApp('/rules') };
}

beforeEach(() => window.localStorage.clear());
afterEach(() => act(() => finder.close()));

const field = () => screen.findByRole('textbox', { name: 'Find anything' });

test('Ctrl+K finds rules, rows and records in one field, and Enter opens the first', async () => {
  const { user } = open();
  await screen.findByRole('link', { name: 'Rules' });
  await user.keyboard('{Control>}k{/Control}');
  await user.type(await field(), 'company to');
  await screen.findByRole('button', { name: /Company to party$/ });
  await user.keyboard('{Enter}');
  await waitFor(() => expect(window.location.search).toBe('?ask=publish'));
  expect(window.location.pathname).toBe('/rules/r');
  await user.keyboard('{Control>}k{/Control}');
  await user.type(await field(), 'murrow');
  await screen.findByRole('button', { name: /^Murrow.*Zone S1/ });
  await screen.findByRole('button', { name: /Fish.*company C7 · town Murrow Bay/ });
  await user.click(screen.getByRole('button', { name: /Fish/ }));
  await waitFor(() =>
    expect(window.location.pathname + window.location.search).toBe('/records?left=book%2Fcompany%2FC7'),
  );
});

test('what was opened is offered again when nothing is typed', async () => {
  const { user } = open();
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  expect(await screen.findByText(/What you open is offered here/)).toBeTruthy();
  await user.type(await field(), 'zones');
  await user.click(await screen.findByRole('button', { name: /^Zones/ }));
  await waitFor(() => expect(window.location.pathname).toBe('/tables/Zones'));
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  const dialog = await screen.findByRole('dialog');
  expect(await within(dialog).findByRole('button', { name: /^Zones/ })).toBeTruthy();
});

test('a text of two letters asks for no records, and every text leads to the systems themselves', async () => {
  const { server, user } = open();
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  await user.type(await field(), 'mu');
  await user.click(await screen.findByRole('button', { name: /^Look for “mu” in every system/ }));
  expect(server.of('GET', '/values/known')).toHaveLength(0);
  await waitFor(() => expect(window.location.pathname + window.location.search).toBe('/values?text=mu'));
});

test('Enter before the list shows what is typed opens the first of what is typed, not what stood there', async () => {
  const { user } = open();
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  // Nothing is called so: what leads to the systems stands first, and is chosen.
  await user.type(await field(), 'zq');
  await screen.findByRole('button', { name: /^Look for “zq” in every system/ });
  fireEvent.change(await field(), { target: { value: 'zones' } });
  fireEvent.keyDown(await field(), { key: 'Enter', code: 'Enter' });
  await waitFor(() => expect(window.location.pathname).toBe('/tables/Zones'));
});

test('what comes to stand first is chosen, whatever stood there before', async () => {
  const { server, user } = open();
  let answer: (rules: unknown) => void = () => undefined;
  server.answer({ 'GET /values/known': { places: [], more: false } });
  server.answer({ 'GET /rules': () => new Promise((done) => (answer = done)) });
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  await user.type(await field(), 'to party');
  await waitFor(() =>
    expect(document.querySelector('[data-selected]')?.textContent).toMatch(/^ ?Look for “to party”/),
  );
  await act(async () => answer([rule]));
  await waitFor(() => expect(document.querySelector('[data-selected]')?.textContent).not.toMatch(/Look for/));
  await user.keyboard('{Enter}');
  await waitFor(() => expect(window.location.pathname).toBe('/rules/r'));
});

test('records that are found later come to stand first, unless somebody has chosen another line', async () => {
  const { server, user } = open();
  let answer: (found: unknown) => void = () => undefined;
  server.answer({ 'GET /values/known': () => new Promise((done) => (answer = done)) });
  await user.click(await screen.findByRole('button', { name: 'Find anything' }));
  await user.type(await field(), 'bay zq');
  const chosen = () => document.querySelector('[data-selected]')?.textContent;
  await waitFor(() => expect(chosen()).toMatch(/Look for “bay zq”/));
  await waitFor(() => expect(server.of('GET', '/values/known').length).toBeGreaterThan(0));
  await act(async () => answer(sightings));
  await waitFor(() => expect(chosen()).toMatch(/^BK Fish/));
  await user.keyboard('{Enter}');
  await waitFor(() => expect(window.location.search).toBe('?left=book%2Fcompany%2FC7'));
});
