import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { MessageDetail, MessagePage, RuleBody, RuleView, RunDetail } from '@vast-knot/core';
import Papa from 'papaparse';
import { Gates } from '../../server/src/connector/gates';
import { outboundAgent } from '../../server/src/connector/outbound';
import { Seal } from '../../server/src/db/seal';
import { RegistryCache } from '../../server/src/registry/registry';
import { tick } from '../../server/src/schedule/tick';
import { until, World } from './harness';

jest.setTimeout(60_000);

const folder = mkdtempSync(join(tmpdir(), 'vast-knot-handover-'));
let world: World;
beforeAll(async () => {
  world = await World.start({ OUT_FOLDERS: JSON.stringify({ handover: folder }) });
});
afterAll(() => world.stop());

const list = '0192f3a0-0025-7000-8000-000000000025';
const all = { system: 'freight-desk', recordType: 'booking', id: '*' };
const ask = (rule: string, id: string, ref: object = all) =>
  world.api<{ run: string; detail: string }>('POST', `/rules/${rule}/requests`, { ref, input: {}, id });
const ended = (run: string) =>
  until('the run', async () => {
    const found = await world.run(run);
    return found.state === 'done' && found;
  });
const messageOf = async (run: string): Promise<MessageDetail> => {
  const { messages } = (await world.api<MessagePage>('GET', `/messages?run=${run}`)).body;
  return (await world.api<MessageDetail>('GET', `/messages/${messages[0]?.id}`)).body;
};
const delivered = (run: string) =>
  until('the file', async () => {
    const message = await messageOf(run);
    return message.state === 'delivered' && message;
  });
const confirmed = async () =>
  (
    await world.desk.query<{ id: string; title: string }>(
      `SELECT id, doc->>'title' AS title FROM records WHERE type = 'booking' AND doc->>'status' = 'confirmed' ORDER BY id`,
    )
  ).rows;

test('a list that somebody asks for lies in its folder, with a row for each record of then', async () => {
  const { status, body } = await ask(list, '00000000-0000-4000-8000-000000000001');
  expect(status).toBe(202);
  const run: RunDetail = await ended(body.run);
  expect([run.result, run.because]).toEqual(['wrote', '1 file made.']);
  const { file } = await delivered(body.run);
  expect(file).toMatch(/^confirmed bookings \d{4}-\d\d-\d\d\.csv$/);
  expect(readdirSync(folder)).toEqual([file]);
  // Read by a reader of CSV from the registry.
  const { data } = Papa.parse<Record<string, string>>(
    readFileSync(join(folder, file ?? ''), 'utf8').replace(/^\ufeff/, ''),
    { header: true, skipEmptyLines: true },
  );
  const rows = await confirmed();
  expect(rows.length).toBeGreaterThan(20);
  expect(data.map((row) => [row['Booking'], row['Goods']]).sort()).toEqual(
    rows.map(({ id, title }) => [id, title]),
  );
});

test('the same request once more makes no second file', async () => {
  const { body } = await ask(list, '00000000-0000-4000-8000-000000000001');
  expect(body.run).toBeNull();
  expect(readdirSync(folder)).toHaveLength(1);
});

test('one for all is asked for as such, and one for a record is not', async () => {
  const [{ id = '' } = {}] = await confirmed();
  const { status, body } = await ask(list, '00000000-0000-4000-8000-000000000002', { ...all, id });
  expect([status, body.detail]).toEqual([
    422,
    '“Confirmed bookings as a list for the quay” is done once for all records: its record is called “*”.',
  ]);
});

test('by the clock it is made once, however often the minute is gone through', async () => {
  const allowed = (world.environment['ALLOWED_OUTBOUND'] ?? '').split(',');
  const agent = outboundAgent(allowed);
  const registry = new RegistryCache(
    world.database,
    new Seal(world.environment['SEAL_KEY'] ?? ''),
    { dispatcher: agent, gates: new Gates(), allowedOutbound: allowed },
    new Set(['handover']),
  );
  // A Monday in winter, when the clock of London is that of UTC.
  const at = async (minute: string) => tick(world.database, await registry.get(), minute);
  expect(await at('2026-12-06T05:30:00.000Z')).toBe(0);
  expect(await at('2026-12-07T05:30:00.000Z')).toBe(1);
  expect(await at('2026-12-07T05:30:00.000Z')).toBe(0);
  await until('the list of that morning', () =>
    Promise.resolve(readdirSync(folder).includes('confirmed bookings 2026-12-07.csv')),
  );
  await agent.close();
});

test('a file for people to take is given as it was made, whatever changed since', async () => {
  const body: RuleBody = {
    name: 'Units of a booking as a list',
    note: '',
    trigger: { system: 'freight-desk', recordType: 'booking', kinds: ['requested'], watched: [] },
    guard: '',
    finds: [
      {
        alias: 'unit',
        system: 'freight-desk',
        recordType: 'unit',
        match: [{ field: 'bookingId', is: 'equal', formula: 'id' }],
        none: 'go on',
        several: 'each',
      },
    ],
    actions: [
      {
        kind: 'file',
        name: '"units of " & id',
        format: 'json lines',
        to: { kind: 'download' },
        columns: [
          { name: 'booking', formula: 'id' },
          { name: 'container', formula: 'unit.containerNumber' },
        ],
      },
    ],
  };
  const { body: rule } = await world.api<RuleView>('POST', '/rules', body);
  const published = await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
    'if-match': `"${rule.revision}"`,
  });
  expect(published.status).toBe(200);
  const [{ id = '' } = {}] = await confirmed();
  const asked = await ask(rule.id, '00000000-0000-4000-8000-000000000003', { ...all, id });
  await ended(asked.body.run);
  const message = await messageOf(asked.body.run);
  expect(message).toMatchObject({ way: 'download', state: 'delivered', file: `units of ${id}.jsonl` });
  expect(message.holds?.count).toBeGreaterThan(0);
  const given = await fetch(`${world.url}/api/messages/${message.id}/file`, { headers: world.signedIn });
  expect(given.status).toBe(200);
  expect(given.headers.get('content-disposition')).toContain(`units of ${id}.jsonl`);
  const lines = (await given.text())
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { booking: string });
  expect(lines).toHaveLength(message.holds?.count ?? 0);
  expect(new Set(lines.map(({ booking }) => booking))).toEqual(new Set([id]));
  // A message that is none has no file.
  expect((await world.api('GET', '/messages/00000000-0000-7000-8000-000000000000/file')).status).toBe(404);
  expect((await world.api('POST', `/messages/${message.id}/resend`)).status).toBe(404);
});

test('a folder that the settings do not name is told before the rule runs', async () => {
  const { body: rule } = await world.api<RuleView>('GET', `/rules/${list}`);
  const [action] = rule.draft.actions;
  const elsewhere = { ...action, to: { kind: 'folder', folder: '../etc' } };
  const { status } = await world.api(
    'PUT',
    `/rules/${list}/draft`,
    { ...rule.draft, actions: [elsewhere] },
    { 'if-match': `"${rule.revision}"` },
  );
  expect(status).toBe(200);
  const publish = await world.api<{ detail: string }>('POST', `/rules/${list}/publish`, undefined, {
    'if-match': `"${rule.revision + 1}"`,
  });
  expect(publish.status).toBe(422);
  expect(JSON.stringify(publish.body)).toContain('There is no folder “../etc” that this server may write to');
});

describe('where the folder of a rule is not named', () => {
  let bare: World;
  beforeAll(async () => {
    bare = await World.start({ OUT_FOLDERS: '{}' });
  });
  afterAll(() => bare.stop());

  test('each time by the clock it fails visibly, with the reason, and other runs of its record type do not', async () => {
    const allowed = (bare.environment['ALLOWED_OUTBOUND'] ?? '').split(',');
    const agent = outboundAgent(allowed);
    const registry = new RegistryCache(bare.database, new Seal(bare.environment['SEAL_KEY'] ?? ''), {
      dispatcher: agent,
      gates: new Gates(),
      allowedOutbound: allowed,
    });
    const minute = '2026-12-07T05:30:00.000Z';
    expect(await tick(bare.database, await registry.get(), minute)).toBe(1);
    expect(await tick(bare.database, await registry.get(), minute)).toBe(0);
    await agent.close();
    const failed = await bare.settled('*');
    expect([failed.result, failed.because]).toEqual([
      'failed',
      'The rule “Confirmed bookings as a list for the quay” cannot run: There is no folder “handover” that this server may write to (OUT_FOLDERS).',
    ]);
    await bare.ask('freight-desk', 'PATCH', '/v2/bookings/BK70002', { title: 'Slate, first load' });
    expect((await bare.settled('BK70002')).because).not.toContain('cannot run');
  });
});
