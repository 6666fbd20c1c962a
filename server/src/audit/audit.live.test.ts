import { createHash } from 'node:crypto';
import type { AuditEntry } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { append, appendLost, beginAct, endAct, ended, readAudit, verifyChain, type Begun } from './chain';

let database: TestDatabase;
beforeEach(async () => {
  database = await openTestDatabase();
});
afterEach(() => database.close());

const begun = (key: string, at = '2026-11-27T08:00:00.000Z'): Begun => ({
  at,
  person: 'mara',
  from: '192.0.2.7',
  what: 'edited a rule',
  kind: 'rule',
  key,
});
const entry = (key: string): AuditEntry => ({ ...begun(key), result: 'done', changes: [] });

/** Does what the application cannot: changes what was written, as somebody with the database could. */
async function behindItsBack(statement: string): Promise<void> {
  await database.pool.query(
    `ALTER TABLE audit DISABLE TRIGGER USER; ${statement}; ALTER TABLE audit ENABLE TRIGGER USER`,
  );
}

test('entries that many append at once have one order without gaps, and the chain holds', async () => {
  await Promise.all(Array.from({ length: 60 }, (_each, at) => append(database.pool, entry(`R${at}`))));
  const page = await readAudit(database.pool, {}, { limit: 100 });
  expect(page.entries.map(({ id }) => Number(id))).toEqual(
    Array.from({ length: 60 }, (_each, at) => 60 - at),
  );
  expect(await verifyChain(database.pool)).toMatchObject({ ok: true, entries: 60 });
});

test('the hash is SHA-256 over the hash before, the number and the entry, as anybody can compute', async () => {
  await append(database.pool, entry('R1'));
  await append(database.pool, entry('R2'));
  const first = createHash('sha256')
    .update(`1\n${JSON.stringify(entry('R1'))}`)
    .digest();
  const second = createHash('sha256')
    .update(first)
    .update(`2\n${JSON.stringify(entry('R2'))}`)
    .digest('hex');
  expect(await verifyChain(database.pool)).toEqual({ ok: true, entries: 2, hash: second });
});

test('nothing that was written can be changed, taken out or emptied by a statement', async () => {
  await append(database.pool, entry('R1'));
  for (const statement of ["UPDATE audit SET person = 'jarl'", 'DELETE FROM audit', 'TRUNCATE audit'])
    await expect(database.pool.query(statement)).rejects.toThrow('What was done stays written down.');
});

test.each([
  [
    'an entry is another',
    `UPDATE audit SET entry = replace(entry, 'mara', 'jarl') WHERE id = 3`,
    '3',
    'not what its hash',
  ],
  ['what it is found by is another', `UPDATE audit SET person = 'jarl' WHERE id = 3`, '3', 'found by'],
  ['one was taken out', 'DELETE FROM audit WHERE id = 3', '4', 'Entry 3 is not there'],
  [
    'one was changed with its hash',
    `UPDATE audit SET entry = '{}', hash = sha256(convert_to('3' || E'\\n{}', 'UTF8')) WHERE id = 3`,
    '3',
    'not what its hash',
  ],
])('when %s, that is found', async (_what, statement, id, because) => {
  for (let at = 1; at <= 5; at++) await append(database.pool, entry(`R${at}`));
  await behindItsBack(statement);
  const state = await verifyChain(database.pool);
  expect(state).toEqual({ ok: false, id, because: expect.stringContaining(because) });
});

test('that the last ones were taken off is found by whoever noted a number and its hash', async () => {
  for (let at = 1; at <= 3; at++) await append(database.pool, entry(`R${at}`));
  const state = await verifyChain(database.pool);
  const noted = { id: '3', hash: state.ok ? state.hash : '' };
  await append(database.pool, entry('R4'));
  expect(await verifyChain(database.pool, noted)).toMatchObject({ ok: true, entries: 4 });
  await behindItsBack('DELETE FROM audit WHERE id >= 3');
  expect(await verifyChain(database.pool)).toMatchObject({ ok: true, entries: 2 });
  expect(await verifyChain(database.pool, noted)).toEqual({
    ok: false,
    id: '3',
    because: expect.stringContaining('taken off'),
  });
});

test('an act is written down with what it changed, once, also when its end is told twice', async () => {
  const id = await beginAct(database.pool, begun('R1'), { note: '' });
  const done = ended(begun('R1'), { result: 'done' }, { note: '' }, { note: 'by harbour' });
  await endAct(database.pool, id, done);
  await endAct(database.pool, id, done);
  const { entries } = await readAudit(database.pool, {}, { limit: 10 });
  expect(entries).toEqual([{ ...done, id: '1' }]);
  expect(entries[0]?.changes).toEqual([{ at: '/note', before: '', after: 'by harbour' }]);
});

test('who was killed in between leaves what was begun, told as not known to be done', async () => {
  await beginAct(database.pool, begun('R1'), { note: '' });
  expect(await appendLost(database.pool)).toBe(0);
  await database.pool.query(`UPDATE acts_begun SET began_at = now() - interval '16 minutes'`);
  expect(await appendLost(database.pool)).toBe(1);
  expect(await appendLost(database.pool)).toBe(0);
  const { entries } = await readAudit(database.pool, {}, { limit: 10 });
  expect(entries).toMatchObject([
    { person: 'mara', key: 'R1', result: 'unknown', because: 'The process ended meanwhile.' },
  ]);
  expect(await verifyChain(database.pool)).toMatchObject({ ok: true, entries: 1 });
});

test('entries are found by who, what, when and any text, which is taken as it is', async () => {
  await append(database.pool, entry('R1'));
  await append(database.pool, {
    ...entry('R2'),
    person: 'jarl',
    at: '2026-11-28T08:00:00.000Z',
    name: '100% \\ of_fees',
  });
  const keys = async (filter: Parameters<typeof readAudit>[1]) =>
    (await readAudit(database.pool, filter, { limit: 10 })).entries.map(({ key }) => key);
  expect(await keys({ person: 'jarl' })).toEqual(['R2']);
  expect(await keys({ kind: 'rule', key: 'R1' })).toEqual(['R1']);
  expect(await keys({ from: '2026-11-28T00:00:00Z' })).toEqual(['R2']);
  expect(await keys({ to: '2026-11-28T00:00:00Z' })).toEqual(['R1']);
  expect(await keys({ text: '100%' })).toEqual(['R2']);
  expect(await keys({ text: 'of_fees' })).toEqual(['R2']);
  expect(await keys({ text: 'of.fees' })).toEqual([]);
  const first = await readAudit(database.pool, {}, { limit: 1 });
  expect([first.entries.length, first.next]).toEqual([1, '2']);
  expect((await readAudit(database.pool, {}, { before: '2', limit: 1 })).entries[0]?.key).toBe('R1');
});
