import { screen, waitFor, within } from '@testing-library/react';
import type { MessageDetail, MessageSummary } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const message: MessageSummary = {
  id: 'M1',
  runId: 'R1',
  rule: 'Tell the yard',
  endpoint: 'yard-board',
  type: 'party.moved',
  way: null,
  file: null,
  ref: { system: 'desk', recordType: 'party', id: 'P1' },
  state: 'waiting',
  attempts: 2,
  createdAt: '2026-03-09T10:00:00Z',
  nextAt: '2026-03-09T10:05:00Z',
  last: 'yard-board answered 503.',
};
const detail: MessageDetail = {
  ...message,
  body: { specversion: '1.0', type: 'party.moved', id: 'M1' },
  edited: null,
  holds: null,
  tries: [
    { at: '2026-03-09T10:00:00Z', status: null, answer: null, problem: 'connection refused' },
    { at: '2026-03-09T10:01:00Z', status: 503, answer: 'later', problem: 'yard-board answered 503.' },
  ],
};

// Without a layout there is no height, and what is out of sight is not drawn.
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { configurable: true, value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, value: 900 });
});

function open(at: string, answers: Record<string, unknown> = {}, role = 'administrator') {
  const server = new FakeServer({
    ...worldAnswers(viewOf(ruleWith([])), [], role),
    'GET /messages': {
      messages: [message, { ...message, id: 'M2', state: 'delivered', attempts: 1 }],
      next: null,
    },
    'GET /messages/M1': detail,
    'POST /messages/M1/resend': {},
    ...answers,
  });
  return { server, ...openApp(at) };
}

test('each message says about what it is, where it goes, how it stands and what came of the last try', async () => {
  open('/messages');
  const [first, second] = await screen.findAllByText('party.moved');
  const row = first?.closest('a');
  expect(row?.textContent).toContain('about P1');
  expect(row?.textContent).toContain('Tell the yard → yard-board, 2 tries: yard-board answered 503.');
  expect(within(row ?? document.body).getByText('on its way')).toBeTruthy();
  expect(within(second?.closest('a') ?? document.body).getByText('delivered')).toBeTruthy();
});

test('what is searched and the state that is chosen stand in the address', async () => {
  const { user } = open('/messages?state=waiting');
  await screen.findAllByText('party.moved');
  expect(screen.getByRole<HTMLInputElement>('combobox', { name: 'State' }).value).toBe('on its way');
  await user.type(screen.getByLabelText('Search messages'), 'P1');
  await waitFor(() => expect(window.location.search).toContain('search=P1'));
});

test('a message shows every try with its answer, and what was sent', async () => {
  open('/messages/M1');
  const view = await screen.findByRole('article', { name: 'Message M1' });
  expect(within(view).getByText('connection refused')).toBeTruthy();
  expect(within(view).getByText('503')).toBeTruthy();
  expect(view.textContent).toContain('"specversion": "1.0"');
  expect(within(view).getByRole('link', { name: 'run R1' }).getAttribute('href')).toBe('/runs/R1');
  expect(within(view).getByRole('link', { name: 'party P1' }).getAttribute('href')).toBe(
    '/records?left=desk/party/P1',
  );
});

test('it is sent again on a press, and a refusal is told beside the button', async () => {
  const { server, user } = open('/messages/M1');
  const send = await screen.findByRole('button', { name: 'Send again now' });
  await user.click(send);
  await waitFor(() => expect(server.of('POST', '/messages/M1/resend')).toHaveLength(1));
  const refusal = { status: 409, title: 'Conflict', detail: 'It is on its way already.' };
  server.answer({ 'POST /messages/M1/resend': new FakeResponse(409, refusal) });
  await user.click(send);
  expect(await screen.findByText('It is on its way already.')).toBeTruthy();
});

test('who may only look cannot send again', async () => {
  open('/messages/M1', {}, 'viewer');
  await screen.findByRole('article', { name: 'Message M1' });
  expect(screen.queryByRole('button', { name: 'Send again now' })).toBeNull();
});

test('where there is none yet, it says what leaves one here; where the list does not come, one can try again', async () => {
  const { unmount } = open('/messages', { 'GET /messages': { messages: [], next: null } });
  expect(await screen.findByText('No message yet')).toBeTruthy();
  unmount();
  const gone = { status: 500, title: 'Failed', detail: 'The list could not be read.' };
  const again = open('/messages', { 'GET /messages': new FakeResponse(500, gone) });
  expect(await screen.findByText(/The list could not be read/)).toBeTruthy();
  again.server.answer({ 'GET /messages': { messages: [message], next: null } });
  await again.user.click(screen.getByRole('button', { name: 'Try again' }));
  expect(await screen.findByText('party.moved')).toBeTruthy();
});

test('a file in a folder shows its rows, says whether it was written, and is taken or written again', async () => {
  const answer = 'It lies there as “list.csv”.';
  open('/messages/M1', {
    'GET /messages/M1': {
      ...detail,
      way: 'folder',
      file: 'list.csv',
      endpoint: 'handover',
      holds: { name: 'list.csv', format: 'csv', columns: ['Person'], rows: [['Runa']], count: 3 },
      tries: [
        { at: '2026-03-09T10:00:00Z', status: null, answer: null, problem: 'The folder is not there.' },
        { at: '2026-03-09T10:01:00Z', status: null, answer, problem: null },
      ],
    },
  });
  const view = await screen.findByRole('article', { name: 'Message M1' });
  expect(within(view).getByRole('heading', { name: 'list.csv' })).toBeTruthy();
  expect(within(view).getByRole('table', { name: 'list.csv' }).textContent).toBe('PersonRuna');
  expect(within(view).getByText('and 2 further rows')).toBeTruthy();
  expect(within(view).getByText('not written')).toBeTruthy();
  expect(within(view).getByText('written')).toBeTruthy();
  expect(within(view).getByRole('link', { name: 'Take the file' }).getAttribute('href')).toBe(
    '/api/messages/M1/file',
  );
  expect(within(view).getByRole('button', { name: 'Write it again now' })).toBeTruthy();
  expect(within(view).queryByRole('button', { name: 'Edit and send…' })).toBeNull();
});
