import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { gzipSync } from 'node:zlib';
import {
  fileFormat,
  type FileSettings,
  type JsonObject,
  type ArrivalRowPage,
  type ArrivalRowWhole,
  type ArrivalSummary,
  type ArrivalView,
  type Layout,
} from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const demoFile = (name: string) => new Uint8Array(readFileSync(join(__dirname, '../../demo/files', name)));
const send = async (name: string, body: string | Uint8Array<ArrayBuffer>) =>
  world.send<ArrivalView>('POST', `/arrivals?name=${name}`, body, 'application/octet-stream');
const view = async (id: string) => (await world.api<ArrivalView>('GET', `/arrivals/${id}`)).body;
const rowsOf = async (id: string, filter = 'from=0') =>
  (await world.api<ArrivalRowPage>('GET', `/arrivals/${id}/rows?${filter}`)).body;
const lookAt = async (id: string) => {
  expect((await world.api('POST', `/arrivals/${id}/looks`)).status).toBe(202);
  return until('the look', async () => {
    const seen = await view(id);
    return seen.look?.state === 'done' && seen;
  });
};
const layOut = (
  { id, revision }: Pick<ArrivalView, 'id' | 'revision'>,
  layout: Layout,
  more: object = { system: 'inlets', recordType: 'spare part' },
) =>
  world.api<ArrivalView & { detail: string }>(
    'PUT',
    `/arrivals/${id}/layout`,
    { ...more, layout },
    {
      'if-match': `"${revision}"`,
    },
  );
const tasks = async () =>
  (
    await world.ask<{ results: { title: string; dueOn: string }[] }>(
      'yard-planner',
      'GET',
      '/yard/tasks?size=100',
    )
  ).body.results;

const recordsIn = async (file: FileSettings, bytes: Uint8Array) => {
  const values: JsonObject[] = [];
  for await (const rows of fileFormat(file).read(Readable.from([bytes]), file))
    values.push(...rows.flatMap((row) => (row.ok ? [row.value] : [])));
  return values;
};

const partLines = [
  { field: 'number', from: '001' },
  { field: 'name', from: '245$a' },
  { field: 'vessel', from: '310$a' },
  { field: 'quantity', from: '850$q' },
  { field: 'arrives', from: '850$d' },
  { field: 'price', from: '954[1]$c' },
  { field: 'currency', from: '954[1]$d' },
  { field: 'notes', from: '500$a' },
];

test('an agent’s file is read by itself, each row told what it would do, one mended, and applied once', async () => {
  const { status, body: came } = await send('manifest.csv', demoFile('manifest.csv'));
  expect(status).toBe(201);
  expect(came).toMatchObject({
    system: 'inlets',
    recordType: 'manifest row',
    layout: { file: { kind: 'csv', delimiter: ';', headAt: 2, encoding: 'utf-8' } },
  });
  expect(came.layout?.lines.filter(({ from }) => from !== '')).toEqual([
    { field: 'booking', from: 'Booking' },
    { field: 'container', from: 'Container no.' },
    { field: 'seal', from: 'Seal' },
    { field: 'weight', from: 'Weight kg' },
    { field: 'goods', from: 'Goods' },
  ]);
  // A container is known by its number, so that its rows are taken one after the other.
  const file = came.head.file;
  if (!file) throw new Error('The file was not recognised.');
  const lines = [
    ...(came.layout?.lines ?? []).filter(({ field }) => field !== 'row'),
    { field: 'row', from: 'Container no.' },
  ];
  await layOut(came, { file, lines }, { system: 'inlets', recordType: 'manifest row', usual: true });
  const looked = await lookAt(came.id);
  expect(looked).toMatchObject({ counts: { create: 4, change: 0, nothing: 0, cannot: 2 }, twice: 1 });
  const { rows } = await rowsOf(came.id, 'standing=cannot');
  expect(rows.map(({ place, because }) => [place, because])).toEqual([
    ['row 5', 'It has 3 cells, and there are 5 titles.'],
    ['row 6', expect.stringContaining('No booking was found for “load”')],
  ]);
  // In full: as the file has it, with each step of each rule.
  const whole = (await world.api<ArrivalRowWhole>('GET', `/arrivals/${came.id}/rows/6`)).body;
  expect(whole.value).toEqual({
    Booking: 'BK99999',
    'Container no.': 'SKRU1234591',
    Seal: 'S4',
    'Weight kg': '1',
    Goods: 'Salt',
  });
  expect(whole.report?.rules[0]).toMatchObject({
    ruleName: 'Manifest row becomes a unit',
    verdict: 'failed',
  });
  // Mended here, it can be applied at once.
  const mended = await world.api<ArrivalRowWhole>('PATCH', `/arrivals/${came.id}/rows/6`, {
    mends: { booking: 'BK70004' },
  });
  expect(mended.body.row).toMatchObject({ standing: 'create', mends: { booking: 'BK70004' } });
  const wrong = await world.api<{ detail: string }>('PATCH', `/arrivals/${came.id}/rows/6`, {
    mends: { boking: 'x' },
  });
  expect(wrong).toMatchObject({ status: 422, body: { detail: 'Manifest row has no field “boking”.' } });

  const applied = await world.api<{ count: number }>('POST', `/arrivals/${came.id}/applying`, { filter: {} });
  expect(applied).toMatchObject({ status: 202, body: { count: 5 } });
  const done = await until('the rows', async () => {
    const seen = await view(came.id);
    return seen.applying?.state === 'done' && seen;
  });
  expect(done).toMatchObject({ chosen: 5, written: 5, failed: 0, underWay: 0 });
  const { data } = (
    await world.ask<{ data: { containerNumber: string; grossKg: number }[] }>(
      'freight-desk',
      'GET',
      '/v2/units',
    )
  ).body;
  const weights = Object.fromEntries(data.map(({ containerNumber, grossKg }) => [containerNumber, grossKg]));
  expect(Object.keys(weights).sort()).toEqual(['SKRU1234565', 'SKRU1234570', 'SKRU1234591', 'SKRU1234604']);
  expect(weights).toMatchObject({ SKRU1234565: 12400, SKRU1234570: 820, SKRU1234591: 1, SKRU1234604: 2150 });
  // Whoever sent it is told of each row, in a file like theirs.
  const result = (await world.send<string>('GET', `/arrivals/${came.id}/result`)).body.replace('\ufeff', '');
  const told = result.split('\r\n').map((line) => line.split(';').slice(-2));
  expect(told.slice(0, 5)).toEqual([
    ['Result', 'Result ids'],
    [expect.stringMatching(/^Created Unit UN\d+\.$/), expect.stringMatching(/^UN\d+$/)],
    [expect.stringMatching(/^Created Unit UN\d+\.$/), expect.stringMatching(/^UN\d+$/)],
    ['row 5 was not taken: It has 3 cells, and there are 5 titles.', ''],
    [expect.stringMatching(/^Created Unit UN\d+\.$/), expect.stringMatching(/^UN\d+$/)],
  ]);
  expect(told[6]?.[0]).toMatch(/^Changed Unit UN\d+\.$/);
  expect(result.split('\r\n')[1]).toMatch(/^BK70001;SKRU 123456-5;S1;12,400;Slate;/);
  // What was applied is not applied again, and cannot be mended.
  expect((await world.api('POST', `/arrivals/${came.id}/applying`, { filter: {} })).status).toBe(409);
  expect((await world.api('PATCH', `/arrivals/${came.id}/rows/6`, { mends: {} })).status).toBe(409);

  // The same content again is recognised, whatever its name; after a look each row says what it would do by now.
  const again = (await send('again.csv', demoFile('manifest.csv'))).body;
  expect(again.sameAs).toMatchObject({ id: came.id, name: 'manifest.csv', applied: 5 });
  // The container that stands twice has the last of its two weights.
  expect((await lookAt(again.id)).counts).toEqual({ create: 0, change: 1, nothing: 3, cannot: 2 });
});

test('a chandler’s tagged records are laid out by places, and become tasks', async () => {
  const came = (await send('spare-parts.mrc', gzipSync(demoFile('spare-parts.mrc')))).body;
  expect(came.head).toMatchObject({ file: { kind: 'tagged' }, problem: '' });
  expect(came.head.rows).toHaveLength(5);
  const layout: Layout = { file: { kind: 'tagged', encoding: 'utf-8' }, lines: partLines };
  const laid = await layOut(came, layout);
  expect(laid.status).toBe(200);
  // Whoever saw it as it was is told.
  expect(await layOut(came, layout)).toMatchObject({ status: 412 });
  const looked = await lookAt(came.id);
  expect(looked.counts).toEqual({ create: 4, change: 0, nothing: 0, cannot: 1 });
  const [first] = (await rowsOf(came.id)).rows;
  expect(first?.record).toEqual({
    number: 'SC-1001',
    name: 'Impeller, bronze',
    vessel: 'SKDA',
    quantity: 2,
    arrives: '2026-12-04',
    price: 112.5,
    currency: 'GBP',
    notes: ['Fits pumps made before 2019', 'Order the gasket with it'],
  });
  // Laid out otherwise since: it has to be looked at again.
  await layOut(looked, { ...layout, lines: partLines.filter(({ field }) => field !== 'notes') });
  expect(await world.api('POST', `/arrivals/${came.id}/applying`, { filter: {} })).toMatchObject({
    status: 409,
    body: { title: 'Laid out otherwise' },
  });
  await lookAt(came.id);
  await world.api('POST', `/arrivals/${came.id}/applying`, { rows: [1, 3] });
  await until('two tasks', async () => {
    const titles = (await tasks()).map(({ title }) => title);
    return titles.includes('Fit SC-1001 Impeller, bronze') && titles.includes('Fit SC-1003 Bolt, stainless');
  });
  expect((await tasks()).find(({ title }) => title.startsWith('Fit SC-1001'))).toMatchObject({
    dueOn: '2026-12-04',
  });
});

test('files of a kind are laid out as somebody said, where their places are there', async () => {
  const came = (await send('first.csv', 'Artikel;Bezeichnung;Schiff\nSC-7;Dichtung;SKDU\n')).body;
  expect(came.layout).toBeNull();
  const file = came.head.file;
  if (!file) throw new Error('The file was not recognised.');
  const lines = [
    { field: 'number', from: 'Artikel' },
    { field: 'name', from: 'Bezeichnung' },
    { field: 'vessel', from: 'Schiff' },
  ];
  await layOut(came, { file, lines }, { system: 'inlets', recordType: 'spare part', usual: true });
  const next = (await send('next.csv', 'Artikel;Bezeichnung;Schiff\nSC-8;Ring;SKDU\n')).body;
  expect(next).toMatchObject({ recordType: 'spare part', layout: { lines } });
});

test('a whole mapping is taken as two columns, or refused line by line', async () => {
  const { id, head } = (await send('parts.csv', 'Part,Title\nSC-1,Bolt\n')).body;
  const ask = (text: string) =>
    world.api<{ lines?: unknown; errors?: { message: string }[] }>('POST', `/arrivals/${id}/layout/text`, {
      system: 'inlets',
      recordType: 'spare part',
      file: head.file,
      text,
    });
  expect((await ask('number\tPart\nname\t=UPPER(PLACE("Title"))')).body.lines).toEqual([
    { field: 'number', from: 'Part' },
    { field: 'name', from: '=UPPER(PLACE("Title"))' },
  ]);
  const refused = await ask('number\tPrat\nnam\tTitle');
  expect(refused.status).toBe(422);
  expect(refused.body.errors?.map(({ message }) => message)).toEqual([
    'Line 1: The file has no “Prat”.',
    'Line 2: Spare part has no field “nam”. Did you mean “name”?',
  ]);
});

test('of two files with one content that a program sends at the same time one is applied, and the other waits', async () => {
  const file =
    'Booking,Container,Seal,Weight,Goods\nBK70021,SKRU7000017,S1,40,Rope\nBK70022,SKRU7000022,S2,50,Tar\n';
  const sent = await Promise.all(
    ['one.csv', 'two.csv', 'three.csv'].map((name) =>
      world.send<ArrivalView>('POST', `/inlets/inlets/manifest%20row/rows?name=${name}`, file, 'text/csv'),
    ),
  );
  expect(sent.map(({ status }) => status)).toEqual([202, 202, 202]);
  const ended = await until('all looks', async () => {
    const views = await Promise.all(sent.map(({ body }) => view(body.id)));
    const jobs = views.flatMap(({ look, applying }) => [look, applying].flatMap((job) => job ?? []));
    return views.some(({ written }) => written === 2) && jobs.every(({ state }) => state === 'done') && views;
  });
  expect(ended.map(({ chosen }) => chosen).sort()).toEqual([0, 0, 2]);
  for (const { chosen, sameAs } of ended) if (chosen === 0) expect(sameAs).not.toBeNull();
  const { data } = (
    await world.ask<{ data: { containerNumber: string }[] }>('freight-desk', 'GET', '/v2/units?pageSize=500')
  ).body;
  expect(data.filter(({ containerNumber }) => containerNumber.startsWith('SKRU70000'))).toHaveLength(2);
});

test('of two who begin with one file at the same time the second is told', async () => {
  const { id } = (await send('both.csv', 'Booking;Container\nBK70023;SKRU7000038\nBK70024;SKRU7000043\n'))
    .body;
  const both = (path: string, body?: unknown) =>
    Promise.all([1, 2, 3].map(() => world.api('POST', `/arrivals/${id}/${path}`, body)));
  expect((await both('looks')).map(({ status }) => status).sort()).toEqual([202, 409, 409]);
  await until('the look', async () => (await view(id)).look?.state === 'done');
  expect((await both('applying', { filter: {} })).map(({ status }) => status).sort()).toEqual([
    202, 409, 409,
  ]);
  // While rows are applied nothing of the file is changed.
  const { revision, head } = await view(id);
  const changed = head.file && (await layOut({ id, revision }, { file: head.file, lines: [] }));
  const done = await until('the rows', async () => {
    const seen = await view(id);
    return seen.applying?.state === 'done' && seen;
  });
  expect([200, 409]).toContain(changed?.status);
  expect(done).toMatchObject({ chosen: 2, written: 2 });
});

test('a look that is paused goes on where it stood, and tells every row once', async () => {
  const rows = Array.from(
    { length: 1500 },
    (_, n) => `BK7${String(n % 40).padStart(4, '0')};X${n};S;${n};Peat`,
  );
  const came = (await send('long.csv', ['Booking;Container;Seal;Weight;Goods', ...rows].join('\n'))).body;
  const { job } = (await world.api<{ job: string }>('POST', `/arrivals/${came.id}/looks`)).body;
  await until('some rows', async () => ((await rowsOf(came.id)).total > 0 ? true : undefined));
  await world.api('POST', `/jobs/${job}/pause`);
  const paused = await until('the pause', async () => {
    const seen = await view(came.id);
    return (seen.look?.state === 'paused' || seen.look?.state === 'done') && seen;
  });
  expect(Object.values(paused.counts).reduce((sum, one) => sum + one, 0)).toBe(paused.look?.done);
  // While it stands still nothing else begins with the file.
  if (paused.look?.state === 'paused')
    expect((await world.api('POST', `/arrivals/${came.id}/looks`)).status).toBe(409);
  await world.api('POST', `/jobs/${job}/resume`);
  const done = await until('the end', async () => {
    const seen = await view(came.id);
    return seen.look?.state === 'done' && seen;
  });
  expect(Object.values(done.counts).reduce((sum, one) => sum + one, 0)).toBe(rows.length);
  expect((await rowsOf(came.id, 'search=X1499')).rows.map(({ place }) => place)).toEqual(['row 1501']);
});

test('what cannot be read says why, and is kept as it came', async () => {
  const odd = new Uint8Array([1, 2, 3, 4, 200, 201]);
  const came = (await send('odd.bin', odd)).body;
  expect(came.problem).toContain('It is of no kind that is read here');
  expect(await world.api('POST', `/arrivals/${came.id}/looks`)).toMatchObject({ status: 422 });
  expect(await world.file(`/arrivals/${came.id}/file`)).toEqual(odd);
  expect(await send('empty.csv', '')).toMatchObject({ status: 422, body: { detail: 'The file is empty.' } });
  const listed = (await world.api<ArrivalSummary[]>('GET', '/arrivals')).body;
  expect(listed.map(({ name }) => name)).toContain('odd.bin');
  expect(listed.map(({ name }) => name)).not.toContain('empty.csv');
});

test('who may read sees files and applies none', async () => {
  const { id } = (await send('seen.csv', 'Booking;Container\nBK70001;SKRU1234612\n')).body;
  await world.signIn('reader');
  expect((await world.api('GET', `/arrivals/${id}`)).status).toBe(200);
  expect((await world.api('POST', `/arrivals/${id}/looks`)).status).toBe(403);
  expect((await world.api('POST', `/arrivals/${id}/applying`, { filter: {} })).status).toBe(403);
  await world.signIn('admin');
});

test('records of a tagged file are tidied before they are laid out, given back so, and the next file of the kind is too', async () => {
  const { body: came } = await send('parts-to-tidy.mrc', demoFile('spare-parts.mrc'));
  const file = came.head.file;
  if (!file) throw new Error('The file was not recognised.');
  const tidy = [
    { kind: 'remove', what: '5**', only: 'PLACE("310$a") = "SKDA"' },
    {
      kind: 'add',
      tag: '856',
      indicators: '4#',
      subfields: [{ code: 'u', text: '="https://parts.example/" & PLACE("001")' }],
      only: '',
    },
  ] as const;
  const lines = [...partLines.filter(({ field }) => field !== 'notes'), { field: 'notes', from: '856$u' }];
  // How it is tidied can be said before it is said what its records become.
  const first = await layOut(came, { file, lines: [], tidy }, { system: null, recordType: null });
  expect(first.body).toMatchObject({ system: null, layout: { tidy } });
  expect(
    (await layOut(first.body, { file, lines, tidy }, { system: null, recordType: null, usual: true })).status,
  ).toBe(422);
  const laid = await layOut(
    first.body,
    { file, lines, tidy },
    { system: 'inlets', recordType: 'spare part', usual: true },
  );
  expect(laid.status).toBe(200);
  await lookAt(came.id);
  const { rows } = await rowsOf(came.id);
  expect(rows[0]?.record).toMatchObject({ number: 'SC-1001', notes: ['https://parts.example/SC-1001'] });
  const given = await fetch(`${world.url}/api/arrivals/${came.id}/tidied`, {
    method: 'POST',
    headers: world.signedIn,
  });
  const shown = (await recordsIn(file, new Uint8Array(await given.arrayBuffer()))).map((value) =>
    fileFormat(file)
      .shown(value)
      .map(({ label }) => label.slice(0, 3)),
  );
  expect(shown[0]).toEqual(['lea', '001', '007', '245', '310', '850', '954', '954', '856']);
  expect(shown).toHaveLength(came.head.rows.length);
  const { body: taken, status } = await world.api<ArrivalView>(
    'POST',
    `/arrivals/${came.id}/tidied?to=arrival`,
  );
  expect(status).toBe(201);
  expect(taken).toMatchObject({
    name: 'tidied-parts-to-tidy.mrc',
    recordType: 'spare part',
    layout: { tidy },
  });
  const wrong = await layOut(laid.body, {
    file,
    lines,
    tidy: [{ kind: 'remove', what: 'x'.repeat(41), only: '' }],
  });
  expect(wrong.status).toBe(422);
});
