import { pino } from 'pino';
import type { TableDefinition } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { line, openHarbour, rule } from '../fixtures/harbour';
import { readGaps } from '../tables/gaps';
import { insertTable } from '../tables/repository';
import { lookAtTables } from './lookAtTables';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const definition: TableDefinition = {
  name: 'Zones',
  columns: [
    { name: 'town', label: 'Town', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
};

test('the keys that records hold and no row has are counted, with the rules that look them up; what does not answer stays', async () => {
  const { pool } = database;
  await insertTable(pool, { ...definition, rows: [] });
  const zone = rule(1, {
    name: 'Zone of a company',
    actions: [{ kind: 'write', target: 'record', lines: [line('note', 'TABLE("Zones", town, "zone")')] }],
  });
  const look = async (rows: readonly string[], away = false) => {
    const at = openHarbour(pool, {
      rules: [zone],
      tables: [{ ...definition, rows: rows.map((town) => [town, 'N']) }],
      companies: ['Murrow', 'Northport', 'Murrow', 'Skerry', ''].map((town, n) => ({
        id: `C${n}`,
        name: 'c',
        town,
        rev: 1,
      })),
    });
    at.book.away = away;
    const registry = { ...at.registry };
    await lookAtTables({
      pool,
      registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
      log: pino({ level: 'silent' }),
    });
    return (await readGaps(pool)).map(({ table, uncovered, rules }) => [table, uncovered, rules]);
  };
  expect(await look(['Murrow'])).toEqual([['Zones', 2, ['Zone of a company']]]);
  expect(await look(['Murrow', 'Skerry'], true)).toEqual([['Zones', 2, ['Zone of a company']]]);
  expect(await look(['Murrow', 'Skerry'])).toEqual([['Zones', 1, ['Zone of a company']]]);
  expect(await look(['Murrow', 'Skerry', 'Northport'])).toEqual([]);
});
