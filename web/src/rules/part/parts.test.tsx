import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { RuleBody, RulePart } from '@vast-knot/core';
import { FakeServer, openApp, viewOf, worldAnswers, type Asked } from '../../testing/app';
import { line, ruleWith, sample } from '../../work/testWorld';

const [write] = ruleWith([line('name', 'UPPER(name)')]).actions;
const [other] = ruleWith([line('zone', '"N1"')]).actions;
if (!write || !other) throw new Error('there are actions');
const rule = viewOf(ruleWith([], { actions: [write, other] }));

function openSheet(role: 'administrator' | 'viewer' = 'administrator') {
  const server = new FakeServer({
    ...worldAnswers(rule, [sample], role),
    'PUT /rules/r/draft': ({ body }: Asked) => ({ ...rule, draft: body as RuleBody, revision: 2 }),
  });
  return { server, ...openApp('/rules/r') };
}

const latest = (server: FakeServer) =>
  server.of('PUT', '/rules/r/draft').at(-1)?.body as RuleBody | undefined;
const saved = (server: FakeServer, check: (body: RuleBody | undefined) => void) =>
  waitFor(() => check(latest(server)), { timeout: 5000 });

function paste(text: string, target: Element = document.body): void {
  fireEvent.paste(target, { clipboardData: { getData: () => text } });
}

const carried: RulePart = {
  vastKnotPart: 1,
  needs: [],
  find: {
    alias: 'party',
    system: 'desk',
    recordType: 'party',
    match: [{ field: 'name', is: 'equal', formula: 'name' }],
    none: 'go on',
    several: 'first',
  },
};

beforeEach(() => sessionStorage.clear());

test('an action is moved with the keys on its grip, and the focus goes with it', async () => {
  const { server, user } = openSheet();
  const grip = await screen.findByRole('button', { name: /^Order of action 1: 1 of 2/ }, { timeout: 10_000 });
  grip.focus();
  await user.keyboard('{ArrowDown}');
  await saved(server, (body) => expect(body?.actions).toEqual([other, write]));
  await waitFor(() =>
    expect(document.activeElement?.getAttribute('aria-label')).toMatch(/^Order of action 2: 2 of 2/),
  );
  // At the end it stays where it is.
  await user.keyboard('{ArrowDown}{ArrowUp}');
  await saved(server, (body) => expect(body?.actions).toEqual([write, other]));
});

test('an action is removed from its menu, and comes back to its place with one press', async () => {
  const { server, user } = openSheet();
  await user.click(
    await screen.findByRole('button', { name: 'What to do with action 1' }, { timeout: 10_000 }),
  );
  await user.click(await screen.findByRole('button', { name: 'Remove' }));
  await saved(server, (body) => expect(body?.actions).toEqual([other]));
  const toast = (await screen.findByText(/^Removed action 1/)).closest<HTMLElement>('.toast');
  if (!toast) throw new Error('it is told');
  await user.click(within(toast).getByRole('button', { name: 'Undo' }));
  await saved(server, (body) => expect(body?.actions).toEqual([write, other]));
});

test('a find that is pasted beside one of its name is called otherwise, and it says so', async () => {
  const { server } = openSheet();
  await screen.findByRole('button', { name: /^Order of action 1/ }, { timeout: 10_000 });
  paste(JSON.stringify(carried));
  await saved(server, (body) => expect(body?.finds.map(({ alias }) => alias)).toEqual(['party', 'party2']));
  expect(await screen.findByText(/Pasted the find of party\. “party” is called “party2” here/)).toBeTruthy();
  paste(JSON.stringify(carried).slice(0, -5));
  expect(await screen.findByText(/no whole JSON/)).toBeTruthy();
});

test('what is copied from its menu is offered where something more is done', async () => {
  const { server, user } = openSheet();
  await user.click(
    await screen.findByRole('button', { name: 'What to do with action 2' }, { timeout: 10_000 }),
  );
  await user.click(await screen.findByRole('button', { name: 'Copy' }));
  await user.click(screen.getByRole('button', { name: 'Do something more' }));
  await user.click(
    await screen.findByRole('menuitem', { name: /^Paste an action \(write to a record: party\)/ }),
  );
  await saved(server, (body) => expect(body?.actions).toEqual([write, other, other]));
});

test('a find that is said stands as its sentence, and opens to be edited', async () => {
  const { user } = openSheet();
  const sentence = await screen.findByRole(
    'button',
    { name: 'Edit how party is found' },
    { timeout: 10_000 },
  );
  expect(sentence.textContent).toBe(
    'number is id. On none the rule stops here quietly; on several it fails.',
  );
  await user.click(sentence);
  expect(screen.getAllByLabelText('Field of party to compare').length).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Fold' }));
  expect(screen.queryAllByLabelText('Field of party to compare')).toEqual([]);
});

test('somebody who may only read moves, copies and pastes nothing', async () => {
  const { server } = openSheet('viewer');
  await screen.findByRole('button', { name: 'Edit how party is found' }, { timeout: 10_000 });
  expect(screen.queryByRole('button', { name: /^Order of|^What to do with/ })).toBeNull();
  paste(JSON.stringify(carried));
  expect(server.of('PUT', '/rules/r/draft')).toEqual([]);
});
