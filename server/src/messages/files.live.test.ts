import { createHmac } from 'node:crypto';
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Workbook } from 'exceljs';
import { Agent } from 'undici';
import { workbookOf, type FileData, type PlannedMessage } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef, openHarbour } from '../fixtures/harbour';
import { openReceiver, type ReceivedPost } from '../fixtures/receiver';
import { accept } from '../inbox/inbox';
import { beginRuns } from '../runs/repository';
import { deliverMessage } from './deliver';
import { listMessages, readMessageDetail, resendMessage, sendEdited } from './log';
import { storeMessages } from './repository';

const secret = `whsec_${Buffer.from('a secret of the harbour, 32 bytes').toString('base64')}`;
const folder = mkdtempSync(join(tmpdir(), 'handover-'));
const received: ReceivedPost[] = [];
let database: TestDatabase;
let receiver: Awaited<ReturnType<typeof openReceiver>>;

beforeAll(async () => {
  database = await openTestDatabase();
  receiver = await openReceiver((post) => {
    received.push(post);
    return { status: 200, answer: 'taken' };
  });
});
afterAll(async () => {
  await receiver.close();
  await database.close();
  rmSync(folder, { recursive: true });
});
beforeEach(() => {
  received.splice(0);
  for (const name of readdirSync(folder)) rmSync(join(folder, name), { recursive: true });
});

const people: FileData = {
  name: 'people.csv',
  format: 'csv',
  columns: ['Person', 'Note', 'Weight'],
  rows: [
    ['Åse', 'Gate 2; "quay"', 12.5],
    ['Odd', null, 3],
  ],
};
const asText = '\ufeffPerson,Note,Weight\r\nÅse,"Gate 2; ""quay""",12.5\r\nOdd,,3\r\n';

let runs = 0;
/** Stores a file as the message of a run of its own. Returns its id. */
async function stored(
  to: Pick<PlannedMessage, 'way' | 'endpoint'>,
  data: Partial<FileData> = {},
): Promise<string> {
  const { pool } = database;
  const about = `F${++runs}`;
  const { claimed, ...told } = companyEvent({ id: about });
  const runId = (await accept(pool, { ...told, claimed })) ?? '';
  await beginRuns(pool, [{ id: runId, event: { ...told, changed: [] } }]);
  const planned: PlannedMessage = {
    ...to,
    id: 'm1',
    type: 'file',
    ref: companyRef(about),
    data: JSON.parse(JSON.stringify({ ...people, ...data })) as PlannedMessage['data'],
    rule: { id: '00000000-0000-7000-8000-000000000001', name: 'Lists', version: 4 },
  };
  await storeMessages(pool, { runId, time: told.time, planned: [planned], created: new Map() });
  return (await listMessages(pool, { run: runId }, 10))[0]?.id ?? '';
}

function deliver(id: string, outFolders: Readonly<Record<string, string>> = { handover: folder }) {
  const { registry } = openHarbour(database.pool);
  const endpoint = {
    key: 'post',
    name: 'Post',
    url: `http://${receiver.host}/in`,
    secret,
    former: undefined,
  };
  return deliverMessage(id, {
    pool: database.pool,
    registry: { ...registry, endpoints: new Map([['post', endpoint]]) },
    dispatcher: new Agent(),
    allowedOutbound: [receiver.host],
    outFolders,
    tools: { workbook: workbookOf },
    now: () => new Date(),
  });
}
const detail = (id: string) => readMessageDetail(database.pool, id);
const inFolder = { way: 'folder', endpoint: 'handover' } as const;

test('a file lies in its folder whole, and nothing else beside it', async () => {
  const id = await stored(inFolder);
  await deliver(id);
  expect(readdirSync(folder)).toEqual(['people.csv']);
  expect(readFileSync(join(folder, 'people.csv'), 'utf8')).toBe(asText);
  expect(await detail(id)).toMatchObject({
    state: 'delivered',
    file: 'people.csv',
    last: 'It lies there as “people.csv”.',
    holds: { columns: people.columns, rows: people.rows, count: 2 },
  });
});

test('a try that was cut off after the file lay there writes it no second time, and clears up', async () => {
  const id = await stored(inFolder);
  writeFileSync(join(folder, 'people.csv'), asText);
  writeFileSync(join(folder, `.${id}.part`), asText.slice(0, 20));
  await deliver(id);
  expect(readdirSync(folder)).toEqual(['people.csv']);
});

test('a file that is called the same and holds something else stays; the new one gets a number', async () => {
  writeFileSync(join(folder, 'people.csv'), 'of yesterday');
  await deliver(await stored(inFolder));
  const again = await stored(inFolder);
  await deliver(again);
  expect(readdirSync(folder).sort()).toEqual(['people (2).csv', 'people.csv']);
  expect(readFileSync(join(folder, 'people.csv'), 'utf8')).toBe('of yesterday');
  expect((await detail(again))?.last).toBe('It lies there as “people (2).csv”.');
});

test('where the rule says so, it takes the place of the one before', async () => {
  writeFileSync(join(folder, 'people.csv'), 'of yesterday');
  await deliver(await stored(inFolder, { replace: true }));
  expect(readdirSync(folder)).toEqual(['people.csv']);
  expect(readFileSync(join(folder, 'people.csv'), 'utf8')).toBe(asText);
});

test('a folder that is not there, or not named, is told without its path, and tried again', async () => {
  const id = await stored(inFolder);
  await deliver(id, { handover: join(folder, 'later') });
  expect(await detail(id)).toMatchObject({ state: 'waiting', last: 'The folder is not there.' });
  mkdirSync(join(folder, 'later'));
  await deliver(id, { handover: join(folder, 'later') });
  expect(readdirSync(join(folder, 'later'))).toEqual(['people.csv']);
  const other = await stored(inFolder);
  await deliver(other, { toString: folder });
  expect((await detail(other))?.last).toBe('There is no folder “handover” that this server may write to.');
});

test('a folder that may not be written into, or has a folder of that name, is a sentence', async () => {
  mkdirSync(join(folder, 'people.csv'));
  const id = await stored(inFolder, { replace: true });
  await deliver(id);
  expect((await detail(id))?.last).toBe('A folder in it is called the same.');
  if (process.getuid?.() === 0) return;
  const closed = join(folder, 'closed');
  mkdirSync(closed);
  chmodSync(closed, 0o500);
  const other = await stored(inFolder);
  await deliver(other, { handover: closed });
  chmodSync(closed, 0o700);
  expect((await detail(other))?.last).toBe('The server may not write into the folder.');
});

test('a workbook is sent as its bytes, signed over them, and another library reads it', async () => {
  const id = await stored({ way: 'address', endpoint: 'post' }, { name: 'Åses people.xlsx', format: 'xlsx' });
  await deliver(id);
  const [{ headers, bytes } = { headers: {} as ReceivedPost['headers'], bytes: Buffer.of() }] = received;
  expect(headers['content-type']).toBe('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet');
  // RFC 8187, section 3.2.1.
  expect(headers['content-disposition']).toBe("attachment; filename*=UTF-8''%C3%85ses%20people.xlsx");
  // Standard Webhooks, Signature scheme, by node:crypto.
  const signed = createHmac('sha256', 'a secret of the harbour, 32 bytes')
    .update(`${String(headers['webhook-id'])}.${String(headers['webhook-timestamp'])}.`)
    .update(bytes)
    .digest('base64');
  expect(headers['webhook-signature']).toBe(`v1,${signed}`);
  const book = new Workbook();
  await book.xlsx.load(bytes as unknown as Parameters<typeof book.xlsx.load>[0]);
  const rows = book.worksheets[0]?.getSheetValues().slice(1) as unknown[][];
  expect(rows.map((row) => row.slice(1))).toEqual([
    ['Person', 'Note', 'Weight'],
    ['Åse', 'Gate 2; "quay"', 12.5],
    ['Odd', undefined, 3],
  ]);
  expect(await detail(id)).toMatchObject({ state: 'delivered', tries: [{ status: 200, answer: 'taken' }] });
});

test('a file for people to take is there at once: nobody tries to deliver it, or edits what its rule said', async () => {
  const id = await stored({ way: 'download', endpoint: 'download' });
  const { rows } = await database.pool.query<{ count: number }>(
    `SELECT count(*)::integer AS count FROM graphile_worker.jobs WHERE key = $1`,
    [`message/${id}`],
  );
  expect(rows[0]?.count).toBe(0);
  expect(await detail(id)).toMatchObject({ state: 'delivered', way: 'download', tries: [] });
  expect(await resendMessage(database.pool, id)).toBe(false);
  expect(await sendEdited(database.pool, id, { data: {}, by: 'mara' })).toBeUndefined();
});

test('a file is looked for by its name; what its rows hold is not read for it', async () => {
  const id = await stored({ way: 'download', endpoint: 'download' }, { name: 'quay list.csv' });
  const found = async (search: string) =>
    (await listMessages(database.pool, { search }, 50)).map((message) => message.id);
  expect(await found('quay list')).toEqual([id]);
  expect(await found('Gate 2')).toEqual([]);
});
