import { EditorView } from '@codemirror/view';
import { act, screen, waitFor, within } from '@testing-library/react';
import type { RuleBody } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers, type Asked } from '../testing/app';
import { line, ruleWith, sample } from '../work/testWorld';
import { worker } from '../work/worker';

const rule = viewOf(ruleWith([line('name', 'UPPER(name)'), line('zone', 'TABLE("Zones", town, "zone")')]));
const saved = ({ body }: Asked) => ({ ...rule, draft: body as RuleBody, revision: 2 });

function openSheet(role: 'administrator' | 'viewer' = 'administrator') {
  const server = new FakeServer({
    ...worldAnswers(rule, [sample], role),
    'PUT /rules/r/draft': saved,
  });
  return { server, ...openApp('/rules/r') };
}

/** The row of a target field, once the ledger is there. */
async function row(field: string): Promise<HTMLElement> {
  const ledger = await screen.findByRole('table', { name: 'Ledger of party' }, { timeout: 10_000 });
  const found = ledger.querySelector(`tr[data-field="${field}"]`);
  if (!(found instanceof HTMLElement)) throw new Error(`there is no row for ${field}`);
  return found;
}

const cells = (of: HTMLElement) =>
  within(of)
    .getAllByRole('cell')
    .map((cell) => cell.textContent ?? '');

/** Types in the place of what a formula says. */
function write(label: string, text: string): void {
  const content = screen.getByLabelText(label, { selector: '.cm-content' });
  const view = EditorView.findFromDOM(content);
  if (!view) throw new Error('there is no editor');
  act(() => view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } }));
}

const latestDraft = (server: FakeServer) => server.of('PUT', '/rules/r/draft').at(-1)?.body as RuleBody;
const formulaOf = (body: RuleBody, field: string) => {
  const [action] = body.actions;
  return action?.kind === 'write' ? action.lines.find((each) => each.field === field)?.formula : undefined;
};

test('each target field shows how its value is made, what it would be for the sample, and what is there now', async () => {
  openSheet();
  const name = await row('name');
  await waitFor(() => expect(cells(name)[3]).toBe('FISH'));
  expect(cells(name)[4]).toBe('Fish');
  expect(cells(await row('zone'))[3]).toBe('S1');
  expect(cells(await row('zone'))[4]).toBe('N1');
  // A field without a line is listed too, so that nothing is forgotten.
  expect(cells(await row('number'))[2]).toBe('not written');
});

test('what is typed is computed at once, saved a moment later with the revision, and taken back by undo', async () => {
  const { server, user } = openSheet();
  await user.click(within(await row('name')).getByLabelText('Formula for name'));
  write('Formula for name', 'LOWER(name)');
  await waitFor(async () => expect(cells(await row('name'))[3]).toBe('fish'));
  await waitFor(() => expect(formulaOf(latestDraft(server), 'name')).toBe('LOWER(name)'), { timeout: 5000 });
  expect(server.of('PUT', '/rules/r/draft').at(-1)?.ifMatch).toBe('"1"');
  await user.click(screen.getByRole('button', { name: /Undo/ }));
  await waitFor(async () => expect(cells(await row('name'))[3]).toBe('FISH'));
  await waitFor(() => expect(formulaOf(latestDraft(server), 'name')).toBe('UPPER(name)'), { timeout: 5000 });
  // The next save is of the revision that the one before gave.
  expect(server.of('PUT', '/rules/r/draft').at(-1)?.ifMatch).toBe('"2"');
});

test('a mistake stands in the row it is about, and its fix mends it', async () => {
  const { server, user } = openSheet();
  await user.click(within(await row('name')).getByLabelText('Formula for name'));
  write('Formula for name', 'UPPER(nmae)');
  const finding = await screen.findByText(/nmae/, { selector: '.finding span' }, { timeout: 10_000 });
  const note = finding.closest<HTMLElement>('.finding');
  if (!note) throw new Error('the finding stands in a note');
  await user.click(within(note).getByRole('button', { name: 'Use name' }));
  await waitFor(async () => expect(cells(await row('name'))[3]).toBe('FISH'));
  await waitFor(() => expect(formulaOf(latestDraft(server), 'name')).toBe('UPPER(name)'), { timeout: 5000 });
});

test('a draft that somebody else changed says who, shows both, and keeps what was typed until one chooses', async () => {
  const { server, user } = openSheet();
  const detail = 'una changed the rule meanwhile.';
  await row('name');
  server.answer({
    'PUT /rules/r/draft': new FakeResponse(412, { status: 412, title: 'Changed in between', detail }),
    'GET /rules/r': {
      ...rule,
      revision: 7,
      changedBy: 'una',
      draft: { ...rule.draft, note: 'As una said.' },
    },
  });
  await user.click(within(await row('name')).getByLabelText('Formula for name'));
  write('Formula for name', '"mine"');
  const both = await screen.findByRole('alert', { name: 'Changed by somebody else' }, { timeout: 5000 });
  expect(both.textContent).toContain('una changed this rule meanwhile.');
  expect(within(both).getByText('As una said.')).toBeTruthy();
  expect(cells(await row('name'))[3]).toBe('mine');
  server.answer({ 'PUT /rules/r/draft': (asked: Asked) => ({ ...saved(asked), revision: 8 }) });
  await user.click(within(both).getByRole('button', { name: 'Save mine over it' }));
  await waitFor(() => expect(server.of('PUT', '/rules/r/draft').at(-1)?.ifMatch).toBe('"7"'));
  await waitFor(() => expect(screen.queryByRole('alert', { name: 'Changed by somebody else' })).toBeNull());
});

test('a page of something between that answers in place of the server is told of in a sentence', async () => {
  const { server, user } = openSheet();
  server.answer({ 'PUT /rules/r/draft': new FakeResponse(502, '<html>bad gateway</html>') });
  await user.click(within(await row('name')).getByLabelText('Formula for name'));
  write('Formula for name', '"mine"');
  expect(
    await screen.findByText(/answered 502 with what is no answer of ours/, {}, { timeout: 5000 }),
  ).toBeTruthy();
});

test('somebody who may only read sees all of it and can change nothing', async () => {
  const { server, user } = openSheet('viewer');
  const name = await row('name');
  await waitFor(() => expect(cells(name)[3]).toBe('FISH'));
  expect(within(name).getByLabelText('Formula for name').getAttribute('aria-readonly')).toBe('true');
  for (const button of ['Undo', 'Publish', 'Do something more'])
    expect(screen.queryByRole('button', { name: new RegExp(button) })).toBeNull();
  await user.click(within(name).getByLabelText('Formula for name'));
  expect(
    screen.queryByLabelText('Formula for name', { selector: '.cm-content[contenteditable="true"]' }),
  ).toBeNull();
  expect(server.of('PUT', '/rules/r/draft')).toEqual([]);
});

test('a guard is shown as conditions, with what each says of the sample, and is edited there', async () => {
  const guarded = viewOf(ruleWith([line('name', 'name')], { guard: 'AND(town = "Murrow", name <> "Fish")' }));
  const server = new FakeServer({ ...worldAnswers(guarded, [sample]), 'PUT /rules/r/draft': saved });
  const { user } = openApp('/rules/r?guard=conditions');
  const conditions = await screen.findByRole(
    'group',
    { name: 'Conditions of the guard' },
    { timeout: 10_000 },
  );
  await waitFor(() => expect(screen.getByText('this sample stops here')).toBeTruthy());
  await user.click(
    within(conditions).getAllByLabelText('How the conditions count together')[0] ?? conditions,
  );
  await user.click(await screen.findByRole('option', { name: 'any of these holds' }));
  await waitFor(() => expect(screen.getByText('this sample goes on')).toBeTruthy());
  await waitFor(() => expect(latestDraft(server).guard).toBe('OR(town = "Murrow", name <> "Fish")'), {
    timeout: 5000,
  });
});

test('every kind of action can be added, and stands on the sheet', async () => {
  const { server, user } = openSheet();
  await row('name');
  const added = ['Create a record', 'Copy a record', 'Send a message', 'Remove a record'];
  for (const offer of added) {
    await user.click(screen.getByRole('button', { name: 'Do something more' }));
    await user.click(await screen.findByRole('menuitem', { name: offer }));
  }
  await waitFor(
    () =>
      expect(latestDraft(server).actions.map(({ kind }) => kind)).toEqual([
        'write',
        'create',
        'copy',
        'send',
        'remove',
      ]),
    { timeout: 5000 },
  );
  expect(screen.getByText(/from its system/)).toBeTruthy();
  // Aliases that the rule has already are not given again.
  const [, made, copied] = latestDraft(server).actions;
  expect([made?.kind === 'create' && made.alias, copied?.kind === 'copy' && copied.alias]).toEqual([
    'newParty',
    'newCompany',
  ]);
});

describe('before anything was computed', () => {
  afterEach(() => jest.restoreAllMocks());

  test('the sheet says that it is being checked, and not that nothing was found', async () => {
    jest.spyOn(worker, 'ask').mockReturnValue(new Promise(() => undefined));
    openSheet();
    expect(await screen.findByText('The rule is being checked …')).toBeTruthy();
    expect(await screen.findByText('Being computed …')).toBeTruthy();
    expect(screen.queryByText('no findings')).toBeNull();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Publish' }).disabled).toBe(true);
  });

  test('a worker that cannot be loaded is told of where its results would stand', async () => {
    jest.spyOn(worker, 'ask').mockRejectedValue(new Error('What computes in the background did not load.'));
    openSheet();
    await waitFor(() =>
      expect(screen.getAllByText('What computes in the background did not load.').length).toBeGreaterThan(1),
    );
    expect(screen.queryByText('no findings')).toBeNull();
  });
});
