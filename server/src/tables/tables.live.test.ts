import type { LookupTable } from '@vast-knot/core';
import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { changeTable } from './changeTable';
import {
  changesSince,
  insertTable,
  keepDefinition,
  listChanges,
  readTable,
  readTableIndexes,
  removeTable,
  summariseTables,
} from './repository';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const table = (name: string): LookupTable => ({
  name,
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  matching: 'caseless' as const,
  onMiss: 'blank',
  rows: [
    ['NOR', 'N1'],
    ['SKE', 'S1'],
  ],
});
const by = (name: string, what = 'Changed') => ({ name, by: 'Mara', what });

test('a table keeps its rows in their order, and is looked up by its keys', async () => {
  const { pool } = database;
  await insertTable(pool, table('Zones'));
  expect((await readTable(pool, 'Zones'))?.rows.map(({ cells }) => cells)).toEqual(table('Zones').rows);
  expect((await readTableIndexes(pool, ['Zones', 'nobody'])).get('Zones')?.find(['SKE'])).toEqual([
    'SKE',
    'S1',
  ]);
  expect(
    (await summariseTables(pool)).map(({ definition, rowCount }) => [definition.name, rowCount]),
  ).toEqual([['Zones', 2]]);
});

test('changes are made together and kept with who made them; new rows get ids', async () => {
  const { pool } = database;
  await insertTable(pool, table('Made'));
  const rows = (await readTable(pool, 'Made'))?.rows ?? [];
  const { done } = await changeTable(pool, by('Made', 'Three at once'), () => [
    { id: rows[0]?.id ?? 0, before: ['NOR', 'N1'], after: ['NOR', 'N2'] },
    { id: rows[1]?.id ?? 0, before: ['SKE', 'S1'], after: null },
    { id: null, before: null, after: ['MUR', 'M1'] },
  ]);
  expect((await readTable(pool, 'Made'))?.rows.map(({ cells }) => cells)).toEqual([
    ['NOR', 'N2'],
    ['MUR', 'M1'],
  ]);
  expect(done.find(({ after }) => after?.[0] === 'MUR')?.id).toBeGreaterThan(0);
  expect(await listChanges(pool, 'Made')).toMatchObject([
    { by: 'Mara', what: 'Three at once', added: 1, changed: 1, removed: 1 },
  ]);
});

test('after changes it is looked once at what the table lacks, however many there were', async () => {
  const { pool } = database;
  await insertTable(pool, table('Looked'));
  for (const zone of ['L1', 'L2'])
    await changeTable(pool, by('Looked'), () => [{ id: null, before: null, after: [zone, zone] }]);
  const jobs = (await jobsOf(pool, 'look_at_tables')) as { table: string }[];
  expect(jobs.filter((job) => job.table === 'Looked')).toHaveLength(1);
});

test('a row that somebody else changed in between refuses the whole change and names the row', async () => {
  const { pool } = database;
  await insertTable(pool, table('Shared'));
  const rows = (await readTable(pool, 'Shared'))?.rows ?? [];
  const change = changeTable(pool, by('Shared'), () => [
    { id: null, before: null, after: ['NEW', 'X'] },
    { id: rows[0]?.id ?? 0, before: ['NOR', 'old'], after: ['NOR', 'mine'] },
  ]);
  await expect(change).rejects.toMatchObject({
    status: 409,
    detail: 'The row “NOR” was changed by somebody else in between; load the table again.',
  });
  expect((await readTable(pool, 'Shared'))?.rows).toEqual(rows);
});

test('a key that would stand twice is refused, and named', async () => {
  const { pool } = database;
  await insertTable(pool, table('Keys'));
  const change = changeTable(pool, by('Keys'), () => [{ id: null, before: null, after: ['NOR', 'again'] }]);
  await expect(change).rejects.toMatchObject({
    status: 422,
    detail: expect.stringContaining('NOR') as string,
  });
  expect(await listChanges(pool, 'Keys')).toEqual([]);
});

test('of two who change a table at once the second sees what the first did', async () => {
  const { pool } = database;
  await insertTable(pool, table('Race'));
  const add = (port: string) =>
    changeTable(pool, by('Race'), () => [{ id: null, before: null, after: [port, 'R'] }]);
  const results = await Promise.allSettled([add('RAC'), add('RAC')]);
  expect(results.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect((await readTable(pool, 'Race'))?.rows).toHaveLength(3);
});

test('a change that is taken back gives a removed row its own id and place', async () => {
  const { pool } = database;
  await insertTable(pool, table('Back'));
  const before = (await readTable(pool, 'Back'))?.rows ?? [];
  await changeTable(pool, by('Back'), () => [{ id: before[0]?.id ?? 0, before: ['NOR', 'N1'], after: null }]);
  const [latest] = await listChanges(pool, 'Back');
  const [changes = []] = await changesSince(pool, 'Back', latest?.id ?? 0);
  await changeTable(pool, by('Back', 'Taken back'), () =>
    changes.map(({ id, before: was, after }) => ({ id, before: after, after: was })),
  );
  expect((await readTable(pool, 'Back'))?.rows).toEqual(before);
});

test('a table that is removed takes its rows and its history along', async () => {
  const { pool } = database;
  await insertTable(pool, table('Gone'));
  const { rows: _rows, ...definition } = table('Gone');
  await keepDefinition(pool, { ...definition, onMiss: 'stop' });
  expect((await readTable(pool, 'Gone'))?.definition.onMiss).toBe('stop');
  await removeTable(pool, 'Gone');
  expect(await readTable(pool, 'Gone')).toBeUndefined();
  const left = await pool.query(`SELECT 1 FROM table_rows WHERE table_name = 'Gone'`);
  expect(left.rows).toEqual([]);
  await expect(changeTable(pool, by('Gone'), () => [])).rejects.toMatchObject({ status: 404 });
});
