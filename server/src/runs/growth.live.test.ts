import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { clearOld, readCounts } from './clear';
import { listQuery, listRuns, type RunFilter } from './list';
import { readHealth } from '../systems/states';
import { timesOfRuns } from './times';

jest.setTimeout(180_000);

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

/** Runs of a year and more, made by the database: most are our own writes that came back, one in a hundred failed. */
async function fill(count: number): Promise<void> {
  const { pool } = database;
  await pool.query(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, record_name, kind, event, state, because, result, trouble, received_at)
     SELECT CASE WHEN n % 3 = 0 THEN 'desk' ELSE 'book' END, '/made', n::text, 'company', 'C-' || (n % 5000), 'Company ' || (n % 5000), 'updated',
       jsonb_build_object('record', jsonb_build_object('id', 'C-' || (n % 5000), 'phone', '01632 960 ' || (n % 1000))),
       CASE WHEN n % 100 = 7 THEN 'failed' ELSE 'done' END,
       CASE WHEN n % 100 = 7 THEN 'The harbour master refused number ' || n ELSE (n % 9) || ' records written.' END,
       CASE WHEN n % 100 = 7 THEN 'failed' WHEN n % 10 < 7 THEN 'own write' ELSE 'wrote' END, n % 100 = 7,
       now() - (($1 - n) * interval '400 days' / $1)
     FROM generate_series(1, $1::integer) AS n`,
    [count],
  );
  await pool.query(
    `INSERT INTO runs (id, state, result, because, rules_fired, finished_at)
     SELECT id, 'done', result, because, CASE WHEN result = 'own write' THEN '{}' ELSE ARRAY['rule-' || (id % 20)] END, received_at FROM inbox`,
  );
  await pool.query(
    `INSERT INTO writes (run_id, plan, seq, system, record_type, record_id, key, state)
     SELECT id, 1, 0, 'desk', 'booking', record_id, gen_random_uuid(), 'written' FROM inbox WHERE result = 'wrote'`,
  );
  await pool.query('ANALYZE');
}

/** The kinds of step of a plan that read something. */
async function stepsOf(filter: RunFilter): Promise<readonly string[]> {
  const { sql, values } = listQuery(filter, 101);
  const { rows } = await database.pool.query<{ 'QUERY PLAN': string }>(`EXPLAIN ${sql}`, values);
  return rows.map((row) => row['QUERY PLAN']).filter((line) => / Scan | on inbox| using /.test(line));
}

/** Runs a statement, and returns how many rows each of its steps read for nothing. */
async function passedOver(sql: string, values: unknown[]): Promise<readonly number[]> {
  const { rows } = await database.pool.query<{ 'QUERY PLAN': string }>(`EXPLAIN (ANALYZE) ${sql}`, values);
  return rows
    .flatMap((row) => /Rows Removed by Filter: (\d+)/.exec(row['QUERY PLAN'])?.[1] ?? [])
    .map(Number);
}

describe('with a hundred thousand runs', () => {
  beforeAll(() => fill(100_000));

  const filters: readonly (readonly [string, RunFilter, string | undefined])[] = [
    ['nothing but our own writes left out', { own: 'hidden' }, undefined],
    ['those of a system', { system: 'desk', own: 'hidden' }, undefined],
    ['those that failed', { state: 'failed' }, 'inbox_not_done'],
    ['those of one result', { result: 'failed' }, undefined],
    ['those of a rule', { rule: 'rule-3', own: 'hidden' }, undefined],
    ['a part of a reason', { search: 'refused number 99907', own: 'hidden' }, 'inbox_words'],
    ['a part of a name', { search: 'ompany 4217', own: 'hidden' }, 'inbox_words'],
    ['an id', { search: 'C-4217' }, 'inbox_of_id'],
    ['the next page', { own: 'hidden', before: '50000' }, undefined],
    ['those of a rare kind', { kind: 'reconciled' }, 'inbox_of_kind'],
    ['those of a common kind', { kind: 'updated' }, undefined],
    ['those of a record', { record: { system: 'book', recordType: 'company', id: 'C-4217' } }, 'inbox_of'],
    ['those in which a field changed', { field: 'phone' }, undefined],
    ['those of a stretch of time', { from: '2025-06-01T00:00:00Z', to: '2025-06-02T00:00:00Z' }, undefined],
  ];

  test.each(filters)('%s: no step of the list reads the whole table', async (_what, filter, index) => {
    const steps = await stepsOf(filter);
    expect(steps.filter((step) => /Seq Scan on (inbox|runs|writes)/.test(step))).toEqual([]);
    if (index !== undefined) expect(steps.join('\n')).toContain(index);
  });

  test.each(filters)('%s: no step of the list passes over more than the newest', async (_what, filter) => {
    const { sql, values } = listQuery(filter, 101);
    const passed = await passedOver(sql, values);
    expect(passed.filter((count) => count > 20_000)).toEqual([]);
  });

  test('the runs of a rule are found whether it writes all the time or wrote twice long ago', async () => {
    const { pool } = database;
    await pool.query(`UPDATE runs SET rules_fired = '{rare}' WHERE id IN (11, 50018)`);
    const ids = async (filter: RunFilter) => (await listRuns(pool, filter, 3)).map(({ id }) => id);
    expect(await ids({ rule: 'rare' })).toEqual(['50018', '11']);
    expect(await ids({ rule: 'rare', before: '50018' })).toEqual(['11']);
    expect(await ids({ rule: 'rare', system: 'book' })).toEqual(['50018', '11']);
    expect(await ids({ rule: 'rare', system: 'desk' })).toEqual([]);
    expect(await ids({ rule: 'rule-8' })).toEqual(['99988', '99968', '99948']);
    expect(await ids({ rule: 'rule-8', before: '99968' })).toEqual(['99948', '99928', '99908']);
    expect(await ids({ rule: 'nobody' })).toEqual([]);
  });

  test('the last event of a system that never had one is not looked for among all', async () => {
    const { pool } = database;
    await pool.query(
      `INSERT INTO systems (key, position, definition, connection) VALUES ('desk', 1, '{}', '{}'), ('quiet', 2, '{}', '{}')`,
    );
    const query = jest.spyOn(pool, 'query');
    const health = await readHealth(pool);
    const asked = query.mock.calls.at(-1) as unknown as [string, unknown[]];
    query.mockRestore();
    expect(health.map(({ system, lastEvent }) => [system, lastEvent !== null])).toEqual([
      ['desk', true],
      ['quiet', false],
    ]);
    expect((await passedOver(...asked)).filter((count) => count > 1000)).toEqual([]);
  });

  test('a stretch of time is that of the runs that came in it, and its chart counts them', async () => {
    const { pool } = database;
    const day = (n: number) => new Date(Date.now() - n * 86_400_000).toISOString();
    const filter = { from: day(31), to: day(30) };
    const { rows } = await pool.query<{ count: number }>(
      'SELECT count(*)::integer AS count FROM inbox WHERE received_at >= $1 AND received_at < $2',
      [filter.from, filter.to],
    );
    const count = rows[0]?.count ?? 0;
    expect(count).toBeGreaterThan(200);
    const listed = await listRuns(pool, filter, 1000);
    expect(listed).toHaveLength(count);
    expect((await listRuns(pool, { from: day(-1) }, 10)).length).toBe(0);
    expect((await listRuns(pool, { to: day(500) }, 10)).length).toBe(0);

    const { stretches, step, newest } = await timesOfRuns(pool, filter);
    expect(newest).toBeNull();
    expect(stretches.length).toBeLessThanOrEqual(60);
    expect(stretches.map(({ at }) => Date.parse(at) % step)).toEqual(stretches.map(() => 0));
    const sum = (of: 'wrote' | 'nothing' | 'failed') => stretches.reduce((all, each) => all + each[of], 0);
    const results = (of: string) => listed.filter(({ result }) => result === of).length;
    expect([sum('wrote'), sum('failed')]).toEqual([results('wrote'), results('failed')]);
    expect(sum('wrote') + sum('nothing') + sum('failed')).toBe(count);
    // However long a stretch is, it is told in few parts; one in which nothing came is told as well.
    const ages = await timesOfRuns(pool, { from: '1026-01-01T00:00:00Z', to: '9026-01-01T00:00:00Z' });
    expect(ages.stretches.length).toBeGreaterThan(10);
    expect(ages.stretches.length).toBeLessThanOrEqual(60);
    expect(ages.stretches.reduce((all, { wrote }) => all + wrote, 0)).toBeGreaterThan(0);
    const empty = await timesOfRuns(pool, { from: '2001-01-01T00:00:00Z', to: '2001-01-02T00:00:00Z' });
    expect(empty.stretches.map(({ wrote, failed }) => wrote + failed)).toEqual(empty.stretches.map(() => 0));
    expect(empty.stretches.length).toBeGreaterThan(10);
    expect((await timesOfRuns(pool, { from: day(1), to: day(2) })).stretches).toEqual([]);
    // Of all there is, the newest are counted, and it is said that there are more.
    expect((await timesOfRuns(pool, {})).newest).toBe(20_000);
    expect((await timesOfRuns(pool, { search: 'no such words' })).stretches).toEqual([]);
  });

  test('what is found is what was looked for, the latest first', async () => {
    const found = async (filter: RunFilter) =>
      (await listRuns(database.pool, filter, 5)).map(({ id, because }) => [id, because]);
    expect(await found({ search: 'REFUSED number 99907' })).toEqual([
      ['99907', 'The harbour master refused number 99907'],
    ]);
    expect((await found({ search: 'C-4217' })).map(([id]) => id)).toEqual([
      '99217',
      '94217',
      '89217',
      '84217',
      '79217',
    ]);
    expect(await found({ search: '100%_sure' })).toEqual([]);
    // Two letters are looked for in the newest alone.
    expect(await found({ search: 'zz' })).toEqual([]);
    const values = await listRuns(database.pool, { search: '01632 960 999', own: 'hidden' }, 5);
    expect(values.map(({ id }) => id)).toEqual(['99999', '98999']);
  });

  test('old runs go and their counts stay; what failed is kept longer, and what waits stays', async () => {
    const { pool } = database;
    await pool.query(`UPDATE inbox SET state = 'waiting' WHERE id = 1`);
    const of = async (where: string) =>
      (await pool.query<{ count: number }>(`SELECT count(*)::integer AS count FROM inbox WHERE ${where}`))
        .rows[0]?.count;
    const old = `received_at < now() - interval '90 days' AND NOT trouble AND state <> 'waiting'`;
    const failedOld = `received_at < now() - interval '365 days' AND trouble`;
    const wanted = ((await of(old)) ?? 0) + ((await of(failedOld)) ?? 0);
    expect(wanted).toBeGreaterThan(70_000);
    expect(await clearOld(pool, { days: 90, failedDays: 365 })).toBe(wanted);
    expect([await of(old), await of(failedOld), await of(`id = 1`)]).toEqual([0, 0, 1]);
    expect(await of(`trouble AND received_at < now() - interval '90 days'`)).toBeGreaterThan(500);
    const counts = await readCounts(pool);
    expect(
      counts.filter(({ result }) => result !== 'own write').reduce((sum, { count }) => sum + count, 0),
    ).toBeGreaterThan(20_000);
    expect(counts.reduce((sum, { count }) => sum + count, 0)).toBe(wanted);
    const { rows } = await pool.query(
      'SELECT 1 FROM runs WHERE NOT EXISTS (SELECT 1 FROM inbox WHERE inbox.id = runs.id)',
    );
    expect(rows).toEqual([]);
    expect(await clearOld(pool, { days: 90, failedDays: 365 })).toBe(0);
  });
});
