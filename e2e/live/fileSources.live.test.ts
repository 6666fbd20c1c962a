import { createServer, type Server } from 'node:http';
import { mkdtemp, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ArrivalSummary, FileSourceList, FileSourceView, TodayView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);

/** An address outside that gives one file, and what it was asked with. */
let outside: Server;
let given = { status: 200, body: 'Booking,Container\nBK70003,SKRU0000010\n', tag: '"v1"' };
const asked: { readonly key: string | undefined; readonly tag: string | undefined }[] = [];
/** Where addresses below `/moved` lead: back to the list, to another origin, to a place of this machine, or in a circle. */
function leadsTo(path: string): string {
  const { port } = outside.address() as AddressInfo;
  if (path.endsWith('/here')) return '../lists/manifest';
  if (path.endsWith('/elsewhere')) return `http://localhost:${port}/lists/manifest`;
  return path.endsWith('/inside') ? 'http://127.0.0.1:1/lists' : path;
}
let folder: string;
let world: World;
beforeAll(async () => {
  outside = createServer((request, response) => {
    if (request.url?.startsWith('/moved'))
      return void response.writeHead(302, { location: leadsTo(request.url) }).end();
    const tag = request.headers['if-none-match'];
    asked.push({ key: request.headers['x-agent-key'] as string | undefined, tag });
    if (given.tag !== '' && tag === given.tag) return void response.writeHead(304).end();
    response
      .writeHead(given.status, {
        ...(given.tag !== '' && { etag: given.tag }),
        'content-disposition': 'attachment; filename="../manifest of today.csv"',
      })
      .end(given.body);
  });
  await new Promise<void>((done) => outside.listen(0, '127.0.0.1', done));
  folder = await mkdtemp(join(tmpdir(), 'vast-knot-quay-'));
  const { port } = outside.address() as AddressInfo;
  world = await World.start(
    { FOLDERS: JSON.stringify({ quay: folder, gone: '/nowhere/at-all' }) },
    { reach: [`127.0.0.1:${port}`, `localhost:${port}`] },
  );
});
afterAll(async () => {
  await world.stop();
  outside.close();
});

const url = () => `http://127.0.0.1:${(outside.address() as AddressInfo).port}/lists/manifest`;
const schedule = { at: '06:00', zone: 'Europe/London', days: [] };
const source = (name: string, origin: object, more: object = {}) => ({
  name,
  origin,
  system: 'inlets',
  recordType: 'manifest row',
  apply: false,
  expected: null,
  ...more,
});
const arrivals = async () => (await world.api<ArrivalSummary[]>('GET', '/arrivals')).body;
const cameFrom = async (name: string) => (await arrivals()).filter(({ sentBy }) => sentBy === name);
const read = async (id: string) => {
  const { sources } = (await world.api<FileSourceList>('GET', '/file-sources')).body;
  const found = sources.find((each) => each.id === id);
  if (!found) throw new Error('The source is gone.');
  return found;
};
/** Has a source looked at, and waits until it was. */
const lookAt = async (id: string): Promise<FileSourceView> => {
  const before = (await read(id)).lookedAt;
  expect((await world.api('POST', `/file-sources/${id}/look`, {})).status).toBe(202);
  return until('the look', async () => {
    const now = await read(id);
    return now.lookedAt !== before && now;
  });
};
/** A file that came to rest a while ago. */
const lie = async (name: string, text: string, secondsAgo = 60) => {
  const at = new Date(Date.now() - secondsAgo * 1000);
  await writeFile(join(folder, `${name}.part`), text);
  await utimes(join(folder, `${name}.part`), at, at);
  await rename(join(folder, `${name}.part`), join(folder, name));
};

test('a file is fetched with its secret, once for each version, and waits for a person', async () => {
  const origin = { kind: 'address', url: url(), header: 'x-agent-key', schedule };
  const { status, body } = await world.api<FileSourceView>('POST', '/file-sources', {
    ...source('Agent', origin),
    secret: 'open-quay',
  });
  expect(status).toBe(201);
  expect(body).toMatchObject({ hasSecret: true, revision: 1, lookedAt: null, last: null });
  expect(JSON.stringify(body)).not.toContain('open-quay');
  const looked = await lookAt(body.id);
  expect(looked).toMatchObject({ problem: null, last: { name: 'manifest of today.csv' } });
  expect(asked.at(-1)).toEqual({ key: 'open-quay', tag: undefined });
  const [came] = await cameFrom('Agent');
  expect(came).toMatchObject({ way: 'fetched', recordType: 'manifest row', applying: null });
  // It is asked only for another one.
  await lookAt(body.id);
  expect(asked.at(-1)?.tag).toBe('"v1"');
  expect(await cameFrom('Agent')).toHaveLength(1);
  given = { ...given, tag: '', body: `${given.body}BK70004,SKRU0000011\n` };
  await lookAt(body.id);
  expect(await cameFrom('Agent')).toHaveLength(2);
  // Who tells no tag gives the same again, which is no news.
  await lookAt(body.id);
  expect(await cameFrom('Agent')).toHaveLength(2);
  given = { ...given, status: 503 };
  expect((await lookAt(body.id)).problem).toContain('answered 503.');
  given = { ...given, status: 200, body: '' };
  expect((await lookAt(body.id)).problem).toBe('The file is empty.');
});

test('an address that leads on is followed where it may be reached, and the secret goes to no other origin', async () => {
  given = { status: 200, body: 'Booking,Container\nBK70005,SKRU0000012\n', tag: '' };
  const origin = (way: string) => ({
    kind: 'address',
    url: url().replace('/lists/manifest', `/moved/${way}`),
    header: 'x-agent-key',
    schedule,
  });
  const lookThrough = async (way: string) => {
    const { body } = await world.api<FileSourceView>('POST', '/file-sources', {
      ...source(`Moved ${way}`, origin(way)),
      secret: 'open-quay',
    });
    return lookAt(body.id);
  };
  expect(await lookThrough('here')).toMatchObject({ problem: null, last: { name: 'manifest of today.csv' } });
  expect(asked.at(-1)?.key).toBe('open-quay');
  expect((await lookThrough('elsewhere')).problem).toBeNull();
  expect(asked.at(-1)?.key).toBeUndefined();
  expect((await lookThrough('inside')).problem).toContain('127.0.0.1:1 is an address inside this network.');
  expect((await lookThrough('circle')).problem).toContain('leads on, more than 5 times.');
});

test('files that come to lie in a folder are taken when they are whole, each version once, and applied where that is said', async () => {
  await lie('manifest-1.csv', 'Booking,Container\nBK70003,SKRU0000020\n');
  await writeFile(join(folder, 'manifest-2.csv'), 'Booking,Cont');
  await writeFile(join(folder, '.manifest-3.csv'), 'Booking,Container\n');
  await lie('notes.txt', 'not meant');
  await symlink('/etc/hostname', join(folder, 'manifest-4.csv'));
  const origin = { kind: 'folder', folder: 'quay', pattern: 'manifest-*.csv' };
  const { body } = await world.api<FileSourceView>(
    'POST',
    '/file-sources',
    source('Quay', origin, { apply: true }),
  );
  const first = await until('the first file', async () => (await cameFrom('Quay'))[0]);
  expect(first).toMatchObject({ name: 'manifest-1.csv', way: 'folder' });
  await until('the rows to be applied', async () => {
    const [now] = await cameFrom('Quay');
    return now?.written === 1;
  });
  await lookAt(body.id);
  expect(await cameFrom('Quay')).toHaveLength(1);
  // The same name with other rows is another version; what was half is whole by now.
  await lie('manifest-1.csv', 'Booking,Container\nBK70003,SKRU0000021\nBK70003,SKRU0000022\n', 30);
  await lie('manifest-2.csv', 'Booking,Container\nBK70003,SKRU0000023\n', 20);
  await lookAt(body.id);
  expect((await cameFrom('Quay')).map(({ name }) => name).sort()).toEqual([
    'manifest-1.csv',
    'manifest-1.csv',
    'manifest-2.csv',
  ]);
  // What was taken away from the folder is forgotten after a month; what still lies there is not.
  await rm(join(folder, 'manifest-2.csv'));
  await world.database.query(`UPDATE file_sources_taken SET taken_at = taken_at - interval '31 days'`);
  await lookAt(body.id);
  const { rows } = await world.database.query<{ name: string }>(
    'SELECT name FROM file_sources_taken WHERE source = $1 ORDER BY name',
    [body.id],
  );
  expect(rows).toEqual([{ name: 'manifest-1.csv' }]);
  expect(await cameFrom('Quay')).toHaveLength(3);
});

test('a source that names what is not there is refused with the reason', async () => {
  const send = async (definition: object) =>
    (await world.api<{ status: number; detail: string }>('POST', '/file-sources', definition)).body;
  const address = { kind: 'address', url: url(), header: '', schedule };
  expect(await send(source('A', { ...address, url: 'http://127.0.0.1:1/x' }))).toMatchObject({
    status: 422,
    detail: expect.stringContaining('inside this network') as string,
  });
  expect(await send(source('A', { kind: 'folder', folder: 'etc', pattern: '*' }))).toMatchObject({
    detail: 'The settings of the server name no folder “etc”.',
  });
  expect(await send(source('A', address, { recordType: 'cargo' }))).toMatchObject({
    detail: 'Records of “cargo” do not come in by files.',
  });
  expect(
    await send(source('A', { ...address, schedule: { ...schedule, zone: 'Europe/Nowhere' } })),
  ).toMatchObject({ detail: 'There is no time zone “Europe/Nowhere”.' });
  const { body } = await world.api<FileSourceView>(
    'POST',
    '/file-sources',
    source('Gone', { kind: 'folder', folder: 'gone', pattern: '*' }),
  );
  const looked = await until('the look', async () => {
    const now = await read(body.id);
    return now.lookedAt !== null && now;
  });
  expect(looked.problem).toBe('The folder “gone” cannot be read: it is not there, or may not be read.');
});

test('of two who change one source the second is told, and one that is taken out leaves its files', async () => {
  const { sources } = (await world.api<FileSourceList>('GET', '/file-sources')).body;
  const quay = sources.find(({ name }) => name === 'Quay');
  if (!quay) throw new Error('There is no such source.');
  const changed = source('The quay', quay.origin);
  const put = (revision: number) =>
    world.api<FileSourceView>('PUT', `/file-sources/${quay.id}`, changed, { 'if-match': `"${revision}"` });
  expect((await put(quay.revision)).body).toMatchObject({ name: 'The quay', apply: false, revision: 2 });
  expect((await put(quay.revision)).status).toBe(412);
  expect((await world.api('DELETE', `/file-sources/${quay.id}`)).status).toBe(204);
  expect(await cameFrom('Quay')).toHaveLength(3);
  expect((await world.api('POST', `/file-sources/${quay.id}/look`, {})).status).toBe(404);
});

test('a file that was expected and has not come is told on the first page until it comes', async () => {
  const origin = { kind: 'folder', folder: 'quay', pattern: 'late-*.csv' };
  const minute = new Date(Math.floor(Date.now() / 60_000) * 60_000);
  const clock = (at: Date) => at.toISOString().slice(11, 16);
  const { body } = await world.api<FileSourceView>(
    'POST',
    '/file-sources',
    source('Late one', origin, { expected: { at: clock(minute), zone: 'UTC', days: [] } }),
  );
  // As if that had been said days ago.
  await world.database.query(
    `UPDATE file_sources SET expected_since = now() - interval '3 days' WHERE id = $1`,
    [body.id],
  );
  const missing = async () => (await world.api<TodayView>('GET', '/today')).body.needs.missingFiles;
  // The clock goes through a minute a moment after it has begun.
  await world.database.query(
    `SELECT graphile_worker.add_job('schedule_tick', json_build_object('_cron', json_build_object('ts', $1::text)))`,
    [new Date(minute.getTime()).toISOString()],
  );
  const told = await until('the missing file', async () => (await missing()).length > 0 && missing());
  expect(told).toEqual([{ id: body.id, name: 'Late one', since: expect.any(String) as string }]);
  await lie('late-1.csv', 'Booking,Container\nBK70003,SKRU0000030\n');
  await lookAt(body.id);
  await until('it to be missing no more', async () => (await missing()).length === 0);
});
