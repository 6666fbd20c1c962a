import type {
  CoverageView,
  ImportPreview,
  ProblemView,
  RuleFindings,
  TableChangeView,
  TableView,
} from '@vast-knot/core';
import { World } from './harness';

let world: World;
beforeAll(async () => {
  world = await World.start();
}, 60_000);
afterAll(() => world.stop());

const definition = {
  name: 'Test ports',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
    { name: 'crates', label: 'Crates', type: 'integer', key: false },
  ],
  matching: 'caseless',
  onMiss: 'blank',
};
const path = '/tables/Test%20ports';
const read = async () => (await world.api<TableView>('GET', path)).body;
const change = (changes: unknown, what = 'Edited') =>
  world.api<ProblemView>('POST', `${path}/rows`, { what, changes });

test('a table is made, filled, and refused when its name is taken', async () => {
  expect((await world.api('POST', '/tables', definition)).status).toBe(201);
  expect((await world.api('POST', '/tables', definition)).status).toBe(409);
  const { status } = await change([
    { id: null, before: null, after: ['NOR', 'N2', 4] },
    { id: null, before: null, after: ['FIS', 'N1', null] },
  ]);
  expect(status).toBe(200);
  expect((await read()).rows).toEqual([
    ['NOR', 'N2', 4],
    ['FIS', 'N1', null],
  ]);
});

test('a key that is there already is refused with both rows named, and nothing is changed', async () => {
  const before = await read();
  const { status, body } = await change([{ id: null, before: null, after: ['nor', 'N9', 1] }]);
  expect(status).toBe(422);
  expect(body.detail).toBe('Rows 1 and 3 have the same key “nor”.');
  expect(await read()).toEqual(before);
});

test('a cell of another type is refused by row and column', async () => {
  const { body } = await change([{ id: null, before: null, after: ['SKE', 'N9', 'lots'] }]);
  expect(body.errors?.[0]).toMatchObject({ message: 'Row 3, “Crates”: “lots” is not a whole number.' });
});

test('a row that somebody else changed in between is not overwritten', async () => {
  const { rowIds } = await read();
  const { status, body } = await change([
    { id: rowIds[0], before: ['NOR', 'stale', 4], after: ['NOR', 'mine', 4] },
  ]);
  expect(status).toBe(409);
  expect(body.detail).toContain('The row “NOR” was changed by somebody else');
});

test('what was done is kept with who and when, and can be taken back', async () => {
  const { rowIds } = await read();
  await change([{ id: rowIds[0], before: ['NOR', 'N2', 4], after: ['NOR', 'N3', 4] }], 'Zone of NOR');
  await change([{ id: rowIds[1], before: ['FIS', 'N1', null], after: null }], 'FIS closed');
  const history = (await world.api<TableChangeView[]>('GET', `${path}/history`)).body;
  expect(history.map(({ what, by, added, changed, removed }) => [what, by, added, changed, removed])).toEqual(
    [
      ['FIS closed', 'admin', 0, 0, 1],
      ['Zone of NOR', 'admin', 0, 1, 0],
      ['Edited', 'admin', 2, 0, 0],
    ],
  );
  const restored = await world.api<TableView>('POST', `${path}/history/${history[1]?.id}/restore`, {});
  expect(restored.body.rows).toEqual([
    ['NOR', 'N2', 4],
    ['FIS', 'N1', null],
  ]);
  expect(restored.body.rowIds).toEqual(rowIds);
});

test('a file is previewed, and then does what the preview said', async () => {
  const csv = 'port,zone,crates\r\nNOR,N5,4\r\nNEW,Q1,7\r\n';
  const preview = await world.send<ImportPreview>('POST', `${path}/csv/preview`, csv, 'text/csv');
  expect(preview.body).toMatchObject({
    added: [['NEW', 'Q1', 7]],
    changed: [{ before: ['NOR', 'N2', 4], after: ['NOR', 'N5', 4] }],
    removed: [['FIS', 'N1', null]],
    counts: { added: 1, changed: 1, removed: 1, same: 0 },
  });
  const late = await world.send('POST', `${path}/csv`, csv, 'text/csv', { 'If-Match': '"1"' });
  expect(late.status).toBe(412);
  const done = await world.send('POST', `${path}/csv?remove=yes`, csv, 'text/csv', {
    'If-Match': `"${preview.body.revision}"`,
  });
  expect(done.body).toEqual({ changes: 3 });
  expect((await read()).rows).toEqual([
    ['NOR', 'N5', 4],
    ['NEW', 'Q1', 7],
  ]);
});

test('a file with a mistake in row 3 names it and changes nothing', async () => {
  const before = await read();
  const csv = 'port,zone,crates\nAAA,A,1\nBBB,B,2\nCCC,C,three\n';
  const { status, body } = await world.send<ProblemView>('POST', `${path}/csv/preview`, csv, 'text/csv');
  expect(status).toBe(422);
  expect(body.detail).toBe('Row 3, “Crates”: “three” is not a whole number.');
  expect(await read()).toEqual(before);
});

test('what is no CSV is refused before it is read', async () => {
  const { status, body } = await world.send<ProblemView>(
    'POST',
    `${path}/csv/preview`,
    '{}',
    'application/json',
  );
  expect([status, body.detail]).toEqual([415, 'Send the file as text/csv.']);
});

test('of many mistakes the first hundred are named, and how many there are', async () => {
  const csv = `port,zone,crates\n${Array.from({ length: 2500 }, (_, at) => `P${at},A,none`).join('\n')}\n`;
  const { status, body } = await world.send<ProblemView>('POST', `${path}/csv/preview`, csv, 'text/csv');
  expect([status, body.errors?.length]).toEqual([422, 100]);
  expect(body.detail).toBe(
    'Row 1, “Crates”: “none” is not a whole number. There are 2,500 problems; the first 100 are named.',
  );
});

test('for a spreadsheet a cell that begins as a formula is text; otherwise it comes as it is', async () => {
  const rows = [{ id: null, before: null, after: ['=1+1', '+47 99', -4] }];
  expect((await world.api('POST', `${path}/rows`, { what: 'Odd', changes: rows })).status).toBe(200);
  expect((await world.send<string>('GET', `${path}/csv`)).body).toContain('=1+1,+47 99,-4');
  expect((await world.send<string>('GET', `${path}/csv?guard=yes`)).body).toContain("'=1+1,'+47 99,'-4");
  const table = await read();
  const at = table.rows.findIndex(([port]) => port === '=1+1');
  const gone = [{ id: table.rowIds[at], before: ['=1+1', '+47 99', -4], after: null }];
  expect((await world.api('POST', `${path}/rows`, { what: 'Back', changes: gone })).status).toBe(200);
});

test('the file that comes out goes in again without a change', async () => {
  const csv = await world.send<string>('GET', `${path}/csv`);
  expect(csv.body).toContain('NEW,Q1,7');
  const preview = await world.send<ImportPreview>('POST', `${path}/csv/preview`, csv.body, 'text/csv');
  expect(preview.body.counts).toEqual({ added: 0, changed: 0, removed: 0, same: 2 });
});

test('a column that is added is blank in all rows, one left out is gone, and both can be restored', async () => {
  const columns = [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'name', label: 'Name', type: 'text', key: false },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ];
  const seen = (await world.api<TableView>('GET', path)).body;
  const put = (to: unknown, revision: number) =>
    world.api<TableView & { detail: string }>(
      'PUT',
      path,
      { ...definition, columns: to },
      { 'if-match': `"${revision}"` },
    );
  const { body } = await put(columns, seen.revision);
  // A second person, who saw it before that, overwrites nothing and is told who was first.
  const second = await put(definition.columns, seen.revision);
  expect([second.status, second.body.detail]).toEqual([
    412,
    expect.stringMatching(/^admin changed the settings of/),
  ]);
  expect((await world.api('PUT', path, { ...definition, columns })).status).toBe(428);
  expect(body.rows[0]).toEqual(['NOR', null, 'N5']);
});

test('a table that rules read says where, and cannot be removed; another one can', async () => {
  const zones = '/tables/Ports%20to%20tariff%20zones';
  const table = (await world.api<TableView>('GET', zones)).body;
  expect(table.usedBy).toHaveLength(3);
  expect(table.usedBy.slice(0, 1)).toEqual([
    {
      id: '0192f3a0-0002-7000-8000-000000000002',
      name: 'Tariff zone from the destination port',
      at: ['actions/0/lines/0/formula'],
    },
  ]);
  expect((await world.api('DELETE', zones)).status).toBe(409);
  expect((await world.api('DELETE', path)).status).toBe(204);
});

test('coverage counts the values that records hold and no row has', async () => {
  const zones = '/tables/Ports%20to%20tariff%20zones';
  const [use] = (await world.api<CoverageView[]>('GET', `${zones}/coverage`)).body;
  expect(use).toMatchObject({ system: 'freight-desk', recordType: 'booking', more: false });
  const { rows, rowIds } = (await world.api<TableView>('GET', zones)).body;
  const gone = rows.findIndex(([port]) => port === 'QSNOR');
  const removed = { what: 'NOR closed', changes: [{ id: rowIds[gone], before: rows[gone], after: null }] };
  expect((await world.api('POST', `${zones}/rows`, removed)).status).toBe(200);
  const [after] = (await world.api<CoverageView[]>('GET', `${zones}/coverage`)).body;
  const nor = after?.uncovered.find(({ keys }) => keys[0] === 'QSNOR');
  expect(nor?.records).toBeGreaterThan(0);
  expect(after?.uncovered.length).toBe((use?.uncovered.length ?? 0) + 1);
});

test('the findings of all rules are told together, and a draft with errors is not published', async () => {
  const findings = (await world.api<RuleFindings[]>('GET', '/rules/findings')).body;
  expect(findings.flatMap((rule) => rule.findings.filter(({ severity }) => severity === 'error'))).toEqual(
    [],
  );
});

test('readers may look and not change', async () => {
  await world.signIn('reader');
  expect((await world.api('GET', '/tables')).status).toBe(200);
  expect((await world.api('POST', '/tables', { ...definition, name: 'Mine' })).status).toBe(403);
});
