import { screen, waitFor } from '@testing-library/react';
import type { Right, RuleView } from '@vast-knot/core';
import { FakeResponse, FakeServer, rightsOf, show, viewOf, worldAnswers } from '../../testing/app';
import { line, ruleWith, surroundings } from '../../work/testWorld';
import { RunRule } from './RunRule';

const asked = ruleWith([line('name', 'UPPER(name)')], {
  name: 'Take over by hand',
  trigger: {
    system: 'book',
    recordType: 'company',
    kinds: ['requested'],
    watched: [],
    inputs: [{ name: 'note', label: 'Note for the desk', type: 'text', required: true }],
  },
});
const published = (rule: RuleView): RuleView => ({
  ...rule,
  published: { version: 3, body: rule.draft, note: '', by: 'mara', at: '2026-03-09T10:00:00Z' },
});
const ref = { system: 'book', recordType: 'company', id: 'C1' };
const write = {
  change: {
    kind: 'edit',
    ref: { system: 'desk', recordType: 'party', id: 'P1' },
    edits: [{ op: 'replace', path: '/name', value: 'FISH', before: 'Fish' }],
  },
  before: { name: 'Fish' },
  rules: [{ id: 'r', name: asked.name, version: 3 }],
};
const preview = {
  forms: [],
  report: { event: {}, rules: [], writes: [write], messages: [], waiting: [], problems: [] },
};

function open(rights: readonly Right[], answers: Record<string, unknown> = {}) {
  const server = new FakeServer({
    ...worldAnswers(published(viewOf(asked)), []),
    'POST /rules/r/preview': preview,
    'POST /rules/r/requests': { run: 'R1' },
    ...answers,
  });
  const type = surroundings.catalog.recordType('book', 'company');
  if (!type) throw new Error('the small world has companies');
  return { server, ...show(<RunRule type={type} recordRef={ref} />, rights) };
}

async function lookAhead(user: ReturnType<typeof open>['user']) {
  await user.click(await screen.findByRole('button', { name: 'Take over by hand' }));
  const look = screen.getByRole<HTMLButtonElement>('button', { name: 'Show what it would do' });
  expect(look.disabled).toBe(true);
  await user.type(screen.getByLabelText(/Note for the desk/), 'at once');
  await waitFor(() => expect(look.disabled).toBe(false));
  await user.click(look);
}

test('a rule asks for its input, shows what it would do, and does it once however often it is pressed', async () => {
  const { server, user } = open(rightsOf('administrator'));
  expect(await screen.findByText('Run on this company:')).toBeTruthy();
  await lookAhead(user);
  expect(server.of('POST', '/rules/r/requests')).toEqual([]);
  const run = await screen.findByRole('button', { name: 'Write 1 record' });
  await user.click(run);
  expect(await screen.findByText(/Take over by hand runs/)).toBeTruthy();
  expect(screen.getByRole('link', { name: 'Look at the run' }).getAttribute('href')).toBe('/runs/R1');
  const [looked] = server.of('POST', '/rules/r/preview');
  const [wanted] = server.of('POST', '/rules/r/requests');
  expect(wanted?.body).toEqual(looked?.body);
  expect(wanted?.body).toMatchObject({ ref, input: { note: 'at once' } });
});

test('who may only look is shown what would be done, told why it cannot be run, and has no button for it', async () => {
  const { server, user } = open(rightsOf('viewer'));
  expect(await screen.findByText('What would be done to this company:')).toBeTruthy();
  await lookAhead(user);
  expect(await screen.findByText(/Running it is for those who may change records/)).toBeTruthy();
  expect(screen.queryByRole('button', { name: /Write/ })).toBeNull();
  expect(server.of('POST', '/rules/r/requests')).toEqual([]);
});

test('what is asked for again after a change is not run on the preview of before', async () => {
  const { user } = open(rightsOf('administrator'));
  await lookAhead(user);
  expect(await screen.findByRole('button', { name: 'Write 1 record' })).toBeTruthy();
  await user.type(screen.getByLabelText(/Note for the desk/), '!');
  await waitFor(() => expect(screen.queryByRole('button', { name: /Write/ })).toBeNull());
  expect(screen.getByRole('button', { name: 'Show what it would do' })).toBeTruthy();
});

test('a system that does not answer is told of in its words, and what was typed stays', async () => {
  const detail = 'desk does not answer (connection refused).';
  const { user } = open(rightsOf('administrator'), {
    'POST /rules/r/preview': new FakeResponse(502, { status: 502, title: 'System does not answer', detail }),
  });
  await lookAhead(user);
  expect((await screen.findByRole('alert')).textContent).toContain(detail);
  expect(screen.getByLabelText<HTMLInputElement>(/Note for the desk/).value).toBe('at once');
});

test('a rule that other record types request is not offered', async () => {
  const server = new FakeServer(worldAnswers(published(viewOf(asked)), []));
  const type = surroundings.catalog.recordType('desk', 'party');
  if (!type) throw new Error('the small world has parties');
  show(<RunRule type={type} recordRef={{ system: 'desk', recordType: 'party', id: 'P1' }} />);
  await waitFor(() => expect(server.of('GET', '/rules')).toHaveLength(1));
  expect(screen.queryByRole('group', { name: 'Rules to run on this record' })).toBeNull();
});

test('a rule that only sends messages, or only writes a file, can be run', async () => {
  const message = {
    id: 'm',
    endpoint: 'post',
    type: 'told',
    ref,
    data: {},
    rule: { id: 'r', name: 'R', version: 1 },
  };
  const sending = (messages: readonly object[]) => ({
    'POST /rules/r/preview': { ...preview, report: { ...preview.report, writes: [], messages } },
  });
  const first = open(rightsOf('administrator'), sending([message]));
  await lookAhead(first.user);
  expect((await screen.findByRole<HTMLButtonElement>('button', { name: 'Send 1 message' })).disabled).toBe(
    false,
  );
  first.unmount();
  const second = open(rightsOf('administrator'), sending([{ ...message, way: 'folder' }, message]));
  await lookAhead(second.user);
  expect(
    (await screen.findByRole<HTMLButtonElement>('button', { name: 'Write 1 file, send 1 message' })).disabled,
  ).toBe(false);
});
