import { emptyConnection, type ConnectionDraft, type DraftView } from '@vast-knot/core';
import { inTransaction } from '../db/pool';
import { Seal } from '../db/seal';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { readSystems } from '../systems/repository';
import {
  clearDrafts,
  discardDraft,
  insertDraft,
  keepDraftSecret,
  listDrafts,
  openDraftSecrets,
  readDraft,
  restoreDraft,
} from './repository';
import { startDraft, takeOut } from './start';

let database: TestDatabase;
const seal = new Seal(Buffer.alloc(32, 7).toString('base64'));
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const draft = (key: string): ConnectionDraft => ({
  system: { key, tag: 'QU', name: 'Quay', hue: 1 },
  recordTypes: [
    {
      name: 'pier',
      label: 'Pier',
      plural: 'Piers',
      idField: 'id',
      nameField: 'id',
      fields: [{ name: 'id', label: 'Id', type: 'text' }],
    },
  ],
  connection: {
    ...emptyConnection,
    baseUrl: 'https://quay.example',
    recordTypes: { pier: { path: '/piers' } },
  },
  proposed: {},
  reasons: [],
  leftOut: [],
  origin: '',
});
const begun = async (
  key: string,
  more: { system?: string; secrets?: Record<string, string> } = {},
): Promise<DraftView> => {
  const { system = null, secrets = {} } = more;
  const id = await inTransaction(database.pool, (client) =>
    insertDraft(client, seal, { draft: draft(key), system, by: 'admin', secrets }),
  );
  const view = await readDraft(database.pool, id);
  if (!view) throw new Error('the draft is not there');
  return view;
};
const out = (key: string) =>
  inTransaction(database.pool, (client) => takeOut(client, seal, { key, by: 'admin' }));
const start = (view: DraftView) => startDraft(database.pool, seal, view);
const secretsOf = async (key: string) => (await readSystems(database.pool, seal, [key]))[0]?.secrets;

test('a draft that is started twice in the same moment is started once', async () => {
  const view = await begun('twice', { secrets: { token: 'one' } });
  const both = await Promise.all([start(view), start(view)]);
  expect(both.map(({ is }) => is).sort()).toEqual(['moved', 'started']);
  expect(await secretsOf('twice')).toEqual({ token: 'one' });
  expect(await readDraft(database.pool, view.id)).toBeUndefined();
});

test('of two drafts with one key, started in the same moment, one becomes the system, and the other stays', async () => {
  const [one, other] = [await begun('same'), await begun('same')];
  const both = await Promise.all([start(one), start(other)]);
  expect(both.map(({ is }) => is).sort()).toEqual(['started', 'taken']);
  const left = (await listDrafts(database.pool)).map(({ id }) => id);
  expect(left.filter((id) => id === one.id || id === other.id)).toHaveLength(1);
});

test('a draft that was changed after it was looked at is not started', async () => {
  const view = await begun('moved');
  await database.pool.query('UPDATE connection_drafts SET revision = 2 WHERE id = $1', [view.id]);
  expect(await start(view)).toEqual({ is: 'moved' });
});

test('a change of a system keeps the secrets that it does not change, and has its own of the others', async () => {
  await start(await begun('kept', { secrets: { token: 'old', webhook: 'w' } }));
  const change = await begun('kept', { system: 'kept' });
  await keepDraftSecret(database.pool, seal, { id: change.id, name: 'token', value: 'new' });
  expect(await openDraftSecrets(database.pool, seal, change)).toEqual({ token: 'new', webhook: 'w' });
  expect(await start(change)).toEqual({ is: 'started', key: 'kept' });
  expect(await secretsOf('kept')).toEqual({ token: 'new', webhook: 'w' });
});

test('a system that is taken out becomes a draft with its secrets, and comes back as it was', async () => {
  await start(await begun('out', { secrets: { token: 'one' } }));
  const change = await begun('out', { system: 'out' });
  const id = await out('out');
  expect(await secretsOf('out')).toBeUndefined();
  // What was to change it has nothing to change any more.
  expect(await readDraft(database.pool, change.id)).toBeUndefined();
  const view = await readDraft(database.pool, id ?? '');
  expect(view && (await start(view))).toEqual({ is: 'started', key: 'out' });
  expect(await secretsOf('out')).toEqual({ token: 'one' });
});

test('what was seen of a system stays while it is taken out, and is forgotten for another that gets its key', async () => {
  const { pool } = database;
  const seen = async () =>
    (
      await pool.query(
        `SELECT 1 FROM images WHERE system = 'seen' UNION ALL SELECT 1 FROM listening WHERE system = 'seen'`,
      )
    ).rowCount;
  await start(await begun('seen'));
  await pool.query(
    `INSERT INTO images (system, record_type, record_id, record) VALUES ('seen', 'pier', '1', '{}')`,
  );
  await pool.query(`INSERT INTO listening (system, record_type, compared_at) VALUES ('seen', 'pier', now())`);
  const back = await readDraft(pool, (await out('seen')) ?? '');
  expect(back && (await start(back))).toEqual({ is: 'started', key: 'seen' });
  expect(await seen()).toBe(2);
  await out('seen');
  await start(await begun('seen'));
  expect(await seen()).toBe(0);
});

test('a discarded draft can be put back with its secrets, and goes after a month', async () => {
  const { pool } = database;
  const view = await begun('back', { secrets: { token: 'one' } });
  expect([await discardDraft(pool, view.id), await discardDraft(pool, view.id)]).toEqual([true, false]);
  expect(await readDraft(pool, view.id)).toBeUndefined();
  expect(await start(view)).toEqual({ is: 'moved' });
  expect(await restoreDraft(pool, view.id)).toBe(true);
  expect(await openDraftSecrets(pool, seal, view)).toEqual({ token: 'one' });
  await pool.query(`UPDATE connection_drafts SET discarded_at = now() - interval '31 days' WHERE id = $1`, [
    view.id,
  ]);
  await clearDrafts(pool);
  expect(await restoreDraft(pool, view.id)).toBe(false);
});
