import { notifications } from '@mantine/notifications';
import { screen, waitFor, within } from '@testing-library/react';
import type { RuleView } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../../testing/app';
import { line, ruleWith } from '../../work/testWorld';

// Without a layout there is no height, and what is out of sight is not drawn.
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'offsetWidth', { value: 900 });
});
afterEach(() => notifications.clean());

const base = viewOf(ruleWith([line('name', 'UPPER(name)')]));
const rule = (id: string, name: string, more: Partial<RuleView> = {}): RuleView => ({
  ...base,
  id,
  draft: { ...base.draft, name },
  ...more,
});
const rules = [rule('r1', 'First of all'), rule('r2', 'Second to it'), rule('r3', 'Third and last')];

function open(path = '/rules', answers: Readonly<Record<string, unknown>> = {}) {
  const server = new FakeServer({
    ...worldAnswers(base, []),
    'GET /rules': rules,
    'PUT /rules/order': rules,
    'PUT /rules/folders': rules,
    ...answers,
  });
  return { server, ...openApp(path) };
}

const names = () =>
  within(screen.getByRole('list', { name: 'Rules' }))
    .getAllByRole('link', { name: /first|second|third/i })
    .map(({ textContent }) => textContent);

test('the list is searched as one types, and the address keeps what was typed', async () => {
  const { user } = open();
  await user.type(await screen.findByLabelText('Search the rules'), 'last');
  await waitFor(() => expect(names()).toEqual(['Third and last']));
  expect(window.location.search).toBe('?search=last');
  await user.click(screen.getByRole('button', { name: 'Show all again' }));
  await waitFor(() => expect(names()).toHaveLength(3));
});

test('a column sorts, then the other way round, then no longer', async () => {
  const { user } = open();
  const head = await screen.findByRole('button', { name: /^Rule/ });
  await user.click(head);
  await user.click(head);
  await waitFor(() => expect(names()).toEqual(['Third and last', 'Second to it', 'First of all']));
  await user.click(head);
  await waitFor(() => expect(names()[0]).toBe('First of all'));
  expect(window.location.search).toBe('');
});

test('a rule is given another place by number among those of its record type', async () => {
  const { server, user } = open('/rules?group=type');
  const place = await screen.findByLabelText(/^Place of “Third and last”/);
  await user.clear(place);
  await user.type(place, '1{Enter}');
  await waitFor(() => expect(server.of('PUT', '/rules/order')).toHaveLength(1));
  expect(server.of('PUT', '/rules/order')[0]?.body).toEqual({
    ids: ['r3', 'r1', 'r2'],
    was: ['r1', 'r2', 'r3'],
  });
});

test('several rules are removed together, one that cannot is told, and what went is brought back by one press', async () => {
  const { server, user } = open('/rules', {
    'DELETE /rules/r1': [],
    'DELETE /rules/r2': new FakeResponse(409, {
      status: 409,
      title: 'Changes wait for it',
      detail: '3 changes wait for “Second to it”.',
    }),
    'POST /rules/r1/restore': rules[0],
  });
  await user.click(await screen.findByRole('checkbox', { name: 'Choose “First of all”' }));
  await user.click(screen.getByRole('checkbox', { name: 'Choose “Second to it”' }));
  const bar = screen.getByRole('region', { name: 'The chosen rules' });
  expect(within(bar).getByText('2 rules chosen')).toBeTruthy();
  await user.click(within(bar).getByRole('button', { name: 'Remove' }));
  await screen.findByText('“First of all” is removed.');
  await screen.findByText('3 changes wait for “Second to it”.');
  await user.click(screen.getByRole('button', { name: 'Undo' }));
  await waitFor(() => expect(server.of('POST', '/rules/r1/restore')).toHaveLength(1));
  expect(server.of('POST', '/rules/r2/restore')).toHaveLength(0);
});

test('rules are put into a folder from the menu of one of them', async () => {
  const { server, user } = open();
  await user.click(await screen.findByRole('button', { name: 'What to do with “Second to it”' }));
  await user.click(await screen.findByRole('menuitem', { name: 'Move to a folder' }));
  await user.type(await screen.findByLabelText('Folder', { selector: 'input[maxlength]' }), 'Ports');
  await user.click(screen.getByRole('button', { name: 'Move 1 rule' }));
  await waitFor(() =>
    expect(server.of('PUT', '/rules/folders').at(-1)?.body).toEqual({ ids: ['r2'], folder: 'Ports' }),
  );
});

test('a new rule is kept once it says something, and its sheet stays', async () => {
  const made = rule('made', 'My rule', { revision: 1 });
  const { server, user } = open('/rules/new', {
    'POST /rules': made,
    'GET /rules/made': made,
    'PUT /rules/made/draft': { ...made, revision: 2 },
  });
  const name = await screen.findByLabelText('Name of the rule', undefined, { timeout: 10_000 });
  expect(server.of('POST', '/rules')).toHaveLength(0);
  await user.tripleClick(name);
  await user.keyboard('My rule');
  await waitFor(() => expect(window.location.pathname).toBe('/rules/made'), { timeout: 5000 });
  expect(server.of('POST', '/rules')).toHaveLength(1);
  expect(screen.getByLabelText('Name of the rule')).toBe(name);
  await user.type(name, ' of all');
  await waitFor(
    () =>
      expect(server.of('PUT', '/rules/made/draft').at(-1)?.body).toMatchObject({ name: 'My rule of all' }),
    { timeout: 5000 },
  );
  expect(server.of('PUT', '/rules/made/draft')[0]?.ifMatch).toBe('"1"');
  expect(server.of('POST', '/rules')).toHaveLength(1);
});
