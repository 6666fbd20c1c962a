import type { Changing, Creating } from '@vast-knot/core';
import { createPier, editPier, TestApplication, type SeenRequest } from './testApplication';

const app = new TestApplication();
beforeAll(() => app.start());
afterAll(() => app.stop());
let pier: Record<string, unknown>;
beforeEach(() => {
  app.seen.splice(0);
  pier = { id: 'P-1', name: 'North', depth: 4, extra: true };
  app.reply = ({ method }) => ({ body: method === 'GET' ? pier : { ...pier, name: 'South' } });
});
const sent = () => app.seen.filter(({ method }) => method !== 'GET');
const edit = (changing: Changing, more: object = {}, version?: string) =>
  app.connector({ changing, ...more }).write('pier', [editPier('P-1', 'name', 'North', 'South', version)]);

describe('a record is changed', () => {
  test('by a merge patch (RFC 7396), with its media type', async () => {
    expect(await edit({ kind: 'merge patch' })).toEqual([{ ok: true, record: { ...pier, name: 'South' } }]);
    expect(sent()).toMatchObject([{ method: 'PATCH', url: '/piers/P-1', body: { name: 'South' } }]);
    expect(sent()[0]?.headers['content-type']).toBe('application/merge-patch+json');
  });

  test('by a JSON Patch (RFC 6902), which makes the object that a field lies in', async () => {
    const changing = { kind: 'json patch' as const };
    await app.connector({ changing }).write('pier', [editPier('P-1', 'address.town', null, 'Holm')]);
    expect(sent()[0]?.body).toEqual([
      { op: 'add', path: '/address', value: {} },
      { op: 'add', path: '/address/town', value: 'Holm' },
    ]);
    await app.connector({ changing }).write('pier', [editPier('P-1', 'name', 'North', null)]);
    expect(sent()[1]?.body).toEqual([{ op: 'remove', path: '/name' }]);
  });

  test('by the whole record, with what no schema knows', async () => {
    await edit({ kind: 'whole record' });
    expect(sent()).toMatchObject([
      { method: 'PUT', body: { id: 'P-1', name: 'South', depth: 4, extra: true } },
    ]);
  });

  test('in an envelope, there and back', async () => {
    app.reply = ({ method }) => ({
      body: method === 'GET' ? pier : { data: { attributes: { ...pier, name: 'South' } } },
    });
    const [result] = await edit({
      kind: 'merge patch',
      envelope: '/data/attributes',
      answer: '/data/attributes',
    });
    expect(sent()[0]?.body).toEqual({ data: { attributes: { name: 'South' } } });
    expect(result).toMatchObject({ ok: true, record: { name: 'South' } });
  });

  test('and read, where the answer does not hold it', async () => {
    app.reply = ({ method }) => (method === 'GET' ? { body: pier } : { status: 204 });
    expect(await edit({ kind: 'merge patch' })).toEqual([{ ok: true, record: pier }]);
    expect(app.seen.map(({ method }) => method)).toEqual(['GET', 'PATCH', 'GET']);
  });
});

describe('somebody else may have changed it', () => {
  test('without versions it is read first: a field that is not as planned is not written', async () => {
    pier = { ...pier, name: 'East' };
    expect(await edit({ kind: 'merge patch' })).toMatchObject([
      { ok: false, problem: { code: 'changed in between', retry: true } },
    ]);
    expect(sent()).toEqual([]);
  });

  test('what is there already is not sent again', async () => {
    pier = { ...pier, name: 'South' };
    expect(await edit({ kind: 'merge patch' })).toEqual([{ ok: true, record: pier }]);
    expect(sent()).toEqual([]);
  });

  test('a change in another field is no reason not to write', async () => {
    pier = { ...pier, depth: 9 };
    expect(await edit({ kind: 'merge patch' })).toMatchObject([{ ok: true }]);
  });

  test('by the tag of the record, sent back as If-Match (RFC 9110, 13.1.1)', async () => {
    app.reply = ({ method }) => ({ body: pier, headers: method === 'GET' ? { etag: '"v7"' } : {} });
    await edit({ kind: 'merge patch' }, { version: { kind: 'etag' } });
    expect(sent()[0]?.headers['if-match']).toBe('"v7"');
  });

  test('by a field, sent as If-Match without a look before', async () => {
    await edit(
      { kind: 'merge patch' },
      { version: { kind: 'field', field: 'rev', ifMatch: 'W/"{version}"' } },
      '7',
    );
    expect(app.seen).toHaveLength(1);
    expect(sent()[0]?.headers['if-match']).toBe('W/"7"');
  });

  test('by a field that cannot be sent: it is compared', async () => {
    pier = { ...pier, changed: '2026-03-09T10:00:00Z' };
    const version = { kind: 'field' as const, field: 'changed' };
    expect(await edit({ kind: 'merge patch' }, { version }, '2026-03-09T09:00:00Z')).toMatchObject([
      { ok: false },
    ]);
    expect(await edit({ kind: 'merge patch' }, { version }, '2026-03-09T10:00:00Z')).toMatchObject([
      { ok: true },
    ]);
  });
});

test('many with one request, where nothing guards them: each is looked at first, and only those are sent that are as planned', async () => {
  const names: Record<string, string> = { 'P-1': 'North', 'P-2': 'East', 'P-3': 'South', 'P-4': 'North' };
  app.reply = ({ method, url, body }) => {
    const id = url.split('/').at(-1) ?? '';
    if (method === 'GET') return id === 'P-9' ? { status: 404 } : { body: { id, name: names[id] } };
    const { items } = body as { items: { id: string }[] };
    return {
      body: { results: items.map((item) => ({ status: 200, record: { id: item.id, name: 'South' } })) },
    };
  };
  const changing: Changing = {
    kind: 'bulk',
    method: 'POST',
    path: '{path}/bulk',
    items: 'items',
    item: { id: '{id}', set: '{changes}' },
    results: '/results',
    status: '/status',
    record: '/record',
    problem: '/problem',
    size: 10,
  };
  const edits = ['P-1', 'P-2', 'P-3', 'P-9', 'P-4'].map((id) => editPier(id, 'name', 'North', 'South'));
  const results = await app.connector({ changing }).write('pier', edits);
  expect(results.map((result) => (result.ok ? result.record?.['id'] : result.problem.code))).toEqual([
    'P-1',
    'changed in between',
    'P-3',
    'not found',
    'P-4',
  ]);
  const [sentInBulk] = sent();
  const ids = (sentInBulk?.body as { items: { id: string }[] }).items.map(({ id }) => id);
  expect(ids.sort()).toEqual(['P-1', 'P-4']);
});

describe('a record is created', () => {
  const create = (creating: Creating, again?: true) =>
    app.connector({ creating }).write('pier', [createPier({ name: 'West' }, again)]);

  test('and comes back in the answer, with its id', async () => {
    app.reply = ({ body }) => ({ status: 201, body: { data: { ...(body as object), id: 'P-9' } } });
    const [result] = await create({
      method: 'POST',
      path: '{path}',
      answer: '/data',
      keyHeader: 'Idempotency-Key',
    });
    expect(result).toEqual({ ok: true, id: 'P-9', record: { id: 'P-9', name: 'West' } });
    expect(sent()[0]?.headers['idempotency-key']).toBe('key-new');
  });

  test('and only its address, or its id, comes back: it is read then', async () => {
    const reply =
      (made: object) =>
      ({ method }: SeenRequest) =>
        method === 'POST' ? { status: 201, ...made } : { body: { id: 'P 9', name: 'West' } };
    app.reply = reply({ headers: { location: `http://${app.host}/piers/P%209` } });
    expect(await create({ method: 'POST', path: '{path}', location: true })).toMatchObject([
      { ok: true, id: 'P 9' },
    ]);
    app.reply = reply({ body: { key: 'P 9' } });
    expect(await create({ method: 'POST', path: '{path}', id: '/key' })).toMatchObject([
      { ok: true, id: 'P 9' },
    ]);
    app.reply = reply({ body: {} });
    expect(await create({ method: 'POST', path: '{path}', location: true })).toMatchObject([
      { ok: false, problem: { message: expect.stringContaining('no id in the header Location') as string } },
    ]);
  });

  test('a repeated creation is looked for by its natural key', async () => {
    app.reply = ({ method }) => ({
      body: method === 'GET' ? [pier, { id: 'P-5', name: 'West' }] : { id: 'P-6' },
    });
    const creating = { method: 'POST' as const, path: '{path}', naturalKey: ['name'] };
    expect(await create(creating, true)).toMatchObject([{ ok: true, id: 'P-5' }]);
    expect(sent()).toEqual([]);
    expect(await create(creating)).toMatchObject([{ ok: true, id: 'P-6' }]);
    app.reply = ({ method }) => ({
      body:
        method === 'GET'
          ? [
              { id: 'a', name: 'West' },
              { id: 'b', name: 'West' },
            ]
          : {},
    });
    expect(await create(creating, true)).toMatchObject([
      {
        ok: false,
        problem: { retry: false, message: expect.stringContaining('has 2 with the same name') as string },
      },
    ]);
  });

  test('a repeated creation that nothing could tell from a second one is not sent', async () => {
    expect(await create({ method: 'POST', path: '{path}' }, true)).toMatchObject([
      { ok: false, problem: { code: 'refused', retry: false } },
    ]);
    expect(app.seen).toEqual([]);
  });

  test('at an address of its own it is made once, however often it is put there', async () => {
    app.reply = () => ({ body: { id: 'west', name: 'West' } });
    const creating = { method: 'PUT' as const, path: '{path}/{id}' };
    await app.connector({ creating }).write('pier', [createPier({ id: 'west', name: 'West' }, true)]);
    expect(sent()).toMatchObject([{ method: 'PUT', url: '/piers/west' }]);
  });
});

describe('a record is removed', () => {
  const remove = (id: string, version?: string) => ({
    change: { kind: 'remove' as const, ref: { system: 'quay', recordType: 'pier', id }, record: { id } },
    ...(version !== undefined && { version }),
  });

  test('or retired by a change; one that is gone is removed', async () => {
    app.reply = ({ url }) => ({ status: url.endsWith('P-2') ? 410 : 204 });
    const connector = app.connector({
      removing: { method: 'PATCH', path: '{path}/{id}', body: { retired: true } },
    });
    expect(await connector.write('pier', [remove('P-1'), remove('P-2')])).toEqual([
      { ok: true, record: undefined },
      { ok: true, record: undefined },
    ]);
    expect(sent()[0]?.body).toEqual({ retired: true });
  });

  test('the version may be part of the address: it is that of the plan, or is read before', async () => {
    const connector = app.connector({
      removing: { method: 'DELETE', path: '{path}/{id}?rev={version}' },
      version: { kind: 'field', field: 'rev' },
    });
    app.reply = ({ method }) => ({ body: method === 'GET' ? { ...pier, rev: '3-a b' } : {} });
    expect(await connector.write('pier', [remove('P-1')])).toEqual([{ ok: true, record: undefined }]);
    expect(app.seen.at(-1)).toMatchObject({ method: 'DELETE', url: '/piers/P-1?rev=3-a%20b' });
    expect(await connector.write('pier', [{ ...remove('P-1'), version: '2-x' }])).toMatchObject([
      { ok: false, problem: { code: 'changed in between' } },
    ]);
  });

  test('an id that is no part of an address removes nothing', async () => {
    const connector = app.connector({ removing: { method: 'DELETE', path: '{path}/{id}' } });
    expect(await connector.write('pier', [remove('..')])).toMatchObject([{ ok: false }]);
    expect(app.seen).toEqual([]);
  });
});

test('what a connection does not say cannot be done, and one failure leaves the others alone', async () => {
  expect(
    await app.connector().write('pier', [editPier('P-1', 'name', 'North', 'x'), createPier({})]),
  ).toMatchObject([
    { ok: false, problem: { message: 'Quay cannot change records: its connection does not say how.' } },
    { ok: false, problem: { message: 'Quay cannot create records: its connection does not say how.' } },
  ]);
  app.reply = ({ url, method }) =>
    url.endsWith('P-2')
      ? { status: 500, body: {} }
      : { body: method === 'GET' ? { ...pier, id: url.slice(-3) } : pier };
  const both = ['P-2', 'P-1'].map((id) => editPier(id, 'name', 'North', 'South'));
  expect(await app.connector({ changing: { kind: 'merge patch' } }).write('pier', both)).toMatchObject([
    { ok: false, problem: { code: 'unavailable' } },
    { ok: true },
  ]);
});
