import { randomBytes } from 'node:crypto';
import { Agent } from 'undici';
import { Gates } from '../connector/gates';
import { Seal } from '../db/seal';
import { keepEndpoint } from '../endpoints/repository';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookSystem, deskSystem, line, phoneToBookings, rule } from '../fixtures/harbour';
import {
  createRule,
  insertRule,
  orderRules,
  publishRule,
  readRule,
  saveDraft,
  withdrawRule,
} from '../rules/repository';
import { insertSystem, keepSecret, moveSystem, readConnection } from '../systems/repository';
import { changeTable } from '../tables/changeTable';
import { insertTable, readTable, removeTable } from '../tables/repository';
import { RegistryCache } from './registry';

const seal = new Seal(randomBytes(32).toString('base64'));
let database: TestDatabase;
const outside = { dispatcher: new Agent(), gates: new Gates(), allowedOutbound: [] };
let registry: RegistryCache;

const zones = (name: string) => ({
  name,
  columns: [
    { name: 'port', label: 'Port', type: 'text' as const, key: true },
    { name: 'zone', label: 'Zone', type: 'text' as const, key: false },
  ],
  matching: 'caseless' as const,
  onMiss: 'blank' as const,
  rows: [['NOR', 'N1']],
});
const withTable = rule(7, {
  name: 'Reads zones',
  actions: [{ kind: 'write', target: 'record', lines: [line('note', 'TABLE("Zones", town, "zone")')] }],
});
const applies = rule(8, {
  name: 'Applies it',
  actions: [{ kind: 'apply', rule: withTable.id, target: 'record' }],
});
const { id: _id, version: _version, ...phoneBody } = phoneToBookings;
const bodyOf = ({ id: _own, version: _one, ...body }: typeof withTable) => body;

beforeAll(async () => {
  database = await openTestDatabase();
  const { pool } = database;
  // Two systems that only tell are enough to have record types.
  const inlet = readConnection({ events: { types: {}, record: '/record' } });
  await insertSystem(pool, { position: 0, definition: bookSystem, connection: inlet });
  await insertSystem(pool, { position: 1, definition: deskSystem, connection: inlet });
  await insertTable(pool, zones('Zones'));
  await insertTable(pool, zones('Others'));
  await insertRule(pool, { id: phoneToBookings.id, position: 1, body: phoneBody, published: true });
  await insertRule(pool, { id: withTable.id, position: 2, body: bodyOf(withTable), published: true });
  await insertRule(pool, { id: applies.id, position: 3, body: bodyOf(applies), published: true });
  registry = new RegistryCache(pool, seal, outside);
});
afterAll(() => database.close());

/** What is the same object before and after a change: by name of the rule, or table. */
async function kept(change: () => Promise<unknown>) {
  const before = await registry.get();
  await change();
  const after = await registry.get();
  const same = (name: string) =>
    before.rules.find((each) => each.rule.name === name) ===
    after.rules.find((each) => each.rule.name === name);
  return {
    registry: before === after,
    rules: after.rules.filter(({ rule: { name } }) => same(name)).map(({ rule: { name } }) => name),
    tables: [...after.tables]
      .filter(([name, table]) => before.tables.get(name) === table)
      .map(([name]) => name),
    catalog: before.catalog === after.catalog,
    connectors: [...after.connectors]
      .filter(([key, each]) => before.connectors.get(key) === each)
      .map(([key]) => key),
    after,
  };
}

const cell = async (table: string, zone: string) => {
  const row = (await readTable(database.pool, table))?.rows[0];
  await changeTable(database.pool, { name: table, by: 'Mara', what: 'Zone' }, () => [
    { id: row?.id ?? 0, before: row?.cells ?? null, after: ['NOR', zone] },
  ]);
};

test('nothing is renewed while nothing changes', async () => {
  const { registry: same, after } = await kept(() => Promise.resolve());
  expect(same).toBe(true);
  expect(after.rules.map(({ rule: { name } }) => name)).toEqual([
    'Phone to bookings',
    'Reads zones',
    'Applies it',
  ]);
});

test('a changed cell renews its table and the rules that read it, also through another rule, and nothing else', async () => {
  const { rules, tables, catalog, connectors, after } = await kept(() => cell('Zones', 'N2'));
  expect(after.tables.get('Zones')?.find(['NOR'])).toEqual(['NOR', 'N2']);
  expect([rules, tables, catalog, connectors]).toEqual([
    ['Phone to bookings'],
    ['Others'],
    true,
    ['book', 'desk'],
  ]);
});

test('a cell of a table that no rule reads leaves all rules as they are', async () => {
  const { rules, tables } = await kept(() => cell('Others', 'X9'));
  expect([rules, tables]).toEqual([['Phone to bookings', 'Reads zones', 'Applies it'], ['Zones']]);
});

test('a draft that is saved renews nothing; publishing it renews that rule', async () => {
  const { pool } = database;
  const edited = { ...phoneBody, note: 'edited' };
  const saved = await kept(async () => {
    const { revision = 0 } = (await readRule(pool, phoneToBookings.id)) ?? {};
    expect(await saveDraft(pool, phoneToBookings.id, revision, edited, 'Ines')).toBe(true);
  });
  expect(saved.registry).toBe(true);
  const published = await kept(async () => {
    const { revision = 0 } = (await readRule(pool, phoneToBookings.id)) ?? {};
    expect(
      await publishRule(pool, phoneToBookings.id, revision, { by: 'Mara', note: 'Because of the port.' }),
    ).toBe(2);
  });
  expect(published.rules).toEqual(['Reads zones', 'Applies it']);
  expect(published.after.rules[0]?.rule).toMatchObject({ version: 2, note: 'edited' });
});

test('a draft that somebody else changed is not saved over, and not published', async () => {
  const { pool } = database;
  const { revision = 0 } = (await readRule(pool, withTable.id)) ?? {};
  expect(await saveDraft(pool, withTable.id, revision, bodyOf(withTable), 'Ines')).toBe(true);
  expect(await saveDraft(pool, withTable.id, revision, bodyOf(withTable), 'Ines')).toBe(false);
  expect(
    await publishRule(pool, withTable.id, revision, { by: 'Mara', note: 'Because of the port.' }),
  ).toBeUndefined();
});

test('the order of the rules is theirs in the registry, and a withdrawn rule is gone from it', async () => {
  const { pool } = database;
  const ordered = await kept(() =>
    orderRules(pool, [applies.id, phoneToBookings.id], [phoneToBookings.id, applies.id]),
  );
  expect(ordered.after.rules.map(({ rule: { name } }) => name)).toEqual([
    'Applies it',
    'Reads zones',
    'Phone to bookings',
  ]);
  const withdrawn = await kept(() => withdrawRule(pool, applies.id, { by: 'Mara', why: '' }));
  expect(withdrawn.after.rules.map(({ rule: { name } }) => name)).toEqual([
    'Reads zones',
    'Phone to bookings',
  ]);
  const made = await kept(() => createRule(pool, bodyOf(applies), { by: 'Mara', folder: '' }));
  expect(made.after.rules).toHaveLength(2);
});

test('a rule whose table is removed is broken, and says why', async () => {
  const { after } = await kept(() => removeTable(database.pool, 'Zones'));
  expect(after.broken.map(({ rule: { name }, because }) => [name, because])).toEqual([
    ['Reads zones', 'There is no table “Zones”.'],
  ]);
  const { after: mended } = await kept(() => insertTable(database.pool, zones('Zones')));
  expect(mended.broken).toEqual([]);
});

test('a secret renews the connector of its system and keeps that of the other', async () => {
  const { connectors, after } = await kept(() =>
    keepSecret(database.pool, seal, { system: 'desk', name: 'webhook', value: 'whsec_x' }),
  );
  expect(connectors).toEqual(['book']);
  expect(after.webhookSecrets.get('desk')).toBe('whsec_x');
  expect(await moveSystem(database.pool, 'nobody', { baseUrl: 'http://x.example' })).toBe(false);
});

test('an endpoint that is added is known, with its secret', async () => {
  const { after } = await kept(() =>
    keepEndpoint(database.pool, seal, { key: 'post', name: 'Post', url: 'http://post.example', secret: 's' }),
  );
  expect(after.endpoints.get('post')).toEqual({
    key: 'post',
    name: 'Post',
    url: 'http://post.example',
    secret: 's',
    former: undefined,
  });
});

test('another secret of an endpoint leaves the one before beside it for a day; the same one, or a name, does not', async () => {
  const keep = (name: string, secret?: string) => () =>
    keepEndpoint(database.pool, seal, { key: 'post', name, url: 'http://post.example', secret });
  const of = async (change: () => Promise<unknown>) => (await kept(change)).after.endpoints.get('post');
  expect(await of(keep('Harbour post'))).toMatchObject({
    name: 'Harbour post',
    secret: 's',
    former: undefined,
  });
  expect((await of(keep('Post', 's')))?.former).toBeUndefined();
  const rotated = await of(keep('Post', 'other'));
  expect(rotated).toMatchObject({ secret: 'other', former: { secret: 's' } });
  const hours = ((rotated?.former?.until.getTime() ?? 0) - Date.now()) / 3_600_000;
  expect(hours).toBeGreaterThan(23.9);
  expect(hours).toBeLessThan(24.1);
});

test('of changes that are made at the same time none is missed, whatever their order', async () => {
  const { pool } = database;
  await registry.get();
  const slow = await pool.connect();
  await slow.query('BEGIN');
  // It takes its revision first and is committed last.
  await slow.query(`UPDATE tables SET definition = definition || '{"onMiss": "stop"}' WHERE name = 'Others'`);
  await cell('Zones', 'N7');
  expect((await registry.get()).tables.get('Zones')?.find(['NOR'])).toEqual(['NOR', 'N7']);
  expect((await registry.get()).tables.get('Others')?.table.onMiss).toBe('blank');
  await slow.query('COMMIT');
  slow.release();
  expect((await registry.get()).tables.get('Others')?.table.onMiss).toBe('stop');
});

test('a registry that could not be read is read anew, with all that changed meanwhile', async () => {
  const broken = new RegistryCache(database.pool, new Seal(randomBytes(32).toString('base64')), outside);
  await expect(broken.get()).rejects.toThrow();
  await expect(broken.get()).rejects.toThrow();
  expect((await registry.recent()).rules).toHaveLength(2);
});
