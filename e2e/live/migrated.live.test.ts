import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { RuleView, SampleSummary, TableView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(90_000);

/** Installations of landed versions, as `scripts/fillDatabase.mjs` left them when their server was killed. */
describe.each([
  ['001', 20],
  ['007', 21],
  ['008', 23],
  // It went through another form of 008.
  ['010', 23],
  ['019', 23],
  // The same, through the other forms of 008 and 011: as it last landed.
  ['019-landed', 23],
  ['032', 24],
  ['033', 25],
])('an installation of version %s', (version, rulesOfThen) => {
  const filled = gunzipSync(
    readFileSync(resolve(__dirname, `../../server/migrations/filled/${version}.sql.gz`)),
  ).toString('utf8');

  let world: World;
  beforeAll(async () => {
    world = await World.start({}, { database: filled });
  });
  afterAll(() => world.stop());

  test('it is carried forward, with the checksum of every migration', async () => {
    const { rows } = await world.database.query<{ name: string; checksum: string }>(
      'SELECT name, checksum FROM migrations ORDER BY name',
    );
    const landed = JSON.parse(
      readFileSync(resolve(__dirname, '../../server/migrations/landed.json'), 'utf8'),
    ) as Record<string, string>;
    expect(Object.fromEntries(rows.map(({ name, checksum }) => [name, checksum]))).toEqual(landed);
  });

  test('it has one form, whichever of those that were delivered it went through', async () => {
    const { rows } = await world.database.query<{ name: string; type: string }>(
      `SELECT table_name || '.' || column_name AS name, data_type AS type FROM information_schema.columns
       WHERE (table_name, column_name) IN (('images', 'digest'), ('connection_drafts', 'way_back')) ORDER BY 1`,
    );
    expect(rows).toEqual([
      { name: 'connection_drafts.way_back', type: 'text' },
      { name: 'images.digest', type: 'bigint' },
    ]);
    const { rows: bound } = await world.database.query(
      `SELECT conname FROM pg_constraint WHERE conrelid = 'listening'::regclass AND contype = 'f'`,
    );
    expect(bound).toEqual([]);
  });

  test('its draft, its sample and its table are there', async () => {
    const { body: rules } = await world.api<RuleView[]>('GET', '/rules');
    expect(rules).toHaveLength(rulesOfThen);
    expect(rules[0]?.draft.note).toBe('Edited and not published.');
    const { body: samples } = await world.api<SampleSummary[]>('GET', '/samples');
    expect(samples.map(({ name }) => name)).toContain('Taken before the update');
    const { body: tables } = await world.api<{ name: string }[]>('GET', '/tables');
    const name = encodeURIComponent(tables[0]?.name ?? '');
    const { body: table } = await world.api<TableView>('GET', `/tables/${name}`);
    const { body: changes } = await world.api<{ what: string }[]>('GET', `/tables/${name}/history`);
    expect(table.rows.length).toBeGreaterThan(0);
    expect(changes.map(({ what }) => what)).toContain('Removed a row');
  });

  test('the event that waited when its server was killed is handled, and what it writes arrives', async () => {
    const waited = await world.settled('C-1010');
    // The company is not as the event told it, here where its application is new: what is computed is how it is by now.
    expect([waited.state, waited.result]).toEqual(['done', 'nothing']);
    await world.changeCompany('C-1010', { phone: '01632 960 310' });
    expect((await world.settled('C-1010', waited.id)).result).toBe('wrote');
    const open = (await world.bookingsOf('401010')).filter(
      ({ status }) => status === 'open' || status === 'confirmed',
    );
    expect(open.length).toBeGreaterThan(0);
    expect(new Set(open.map(({ contactPhone }) => contactPhone))).toEqual(new Set(['+441632960310']));
  });

  test('an old run is read as it was, and new ones are made', async () => {
    const old = (await world.runs('search=C-1001&result=wrote')).at(-1);
    const detail = await world.run(old?.id ?? '');
    expect(detail.outcome.map(({ state }) => state)).toContain('written');
    expect(detail.report?.rules.some(({ verdict }) => verdict === 'writes')).toBe(true);
    const { body: verified } = await world.api<unknown[]>('GET', `/runs/${old?.id ?? ''}/verify`);
    expect(verified.length).toBeGreaterThan(0);

    await world.changeCompany('C-1001', { phone: '01632 960 399' });
    const fresh = await world.settled('C-1001', old?.id);
    expect(fresh.result).toBe('wrote');
    const wrote = await until('the write in the timeline', async () => {
      const { body } = await world.api<{ kind: string; run: string }[]>(
        'GET',
        '/records/freight-desk/booking/BK70002/timeline',
      );
      return body.find(({ kind, run: id }) => kind === 'write' && id === fresh.id);
    });
    expect(wrote.run).toBe(fresh.id);
  });
});
