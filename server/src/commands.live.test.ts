import { randomBytes } from 'node:crypto';
import { resolve } from 'node:path';
import { append } from './audit/chain';
import { doCommand } from './commands';
import { readConfig, type Config } from './config/config';
import { Seal } from './db/seal';
import { keepEndpoint, readEndpoints } from './endpoints/repository';
import { openTestDatabase, type TestDatabase } from './fixtures/database';
import { keepCodes, makePerson, ofPerson, readProof } from './people/people';
import { unopened } from './sealed';
import { startServer } from './server';

const newKey = () => randomBytes(32).toString('base64');
let database: TestDatabase;
beforeEach(async () => {
  database = await openTestDatabase();
});
afterEach(() => database.close());

const configWith = (settings: Readonly<Record<string, string>>): Config =>
  readConfig({
    DATABASE_URL: database.url,
    SESSION_SECRET: 'x'.repeat(32),
    MIGRATIONS: resolve(__dirname, '../migrations'),
    PORT: '0',
    ...settings,
  });

/** Keeps a secret of each kind, sealed with a key. */
async function keepSecrets(key: string): Promise<void> {
  const seal = new Seal(key);
  const { pool } = database;
  await keepEndpoint(pool, seal, {
    key: 'office',
    name: 'Office',
    url: 'https://office.example/',
    secret: 'whsec_first',
  });
  await keepEndpoint(pool, seal, {
    key: 'office',
    name: 'Office',
    url: 'https://office.example/',
    secret: 'whsec_second',
  });
  await makePerson(pool, {
    name: 'mara',
    password: 'four grey gulls on deck',
    role: 'viewer',
    by: 'the test',
  });
  await keepCodes(pool, { name: 'mara', secret: seal.seal('CODES', ofPerson('mara')) });
}

test('secrets are sealed anew with another key, and the one before opens them no more', async () => {
  const [before, next] = [newKey(), newKey()];
  await keepSecrets(before);
  const settings = { SEAL_KEY: next, SEAL_KEYS_FORMER: before };
  expect(await doCommand(['rotate-key'], configWith(settings))).toMatchObject({
    code: 0,
    lines: [expect.stringContaining('3 secrets are sealed with the new key now')],
  });
  const seal = new Seal(next);
  expect(await unopened(database.pool, seal)).toEqual([]);
  expect(await unopened(database.pool, new Seal(before))).toHaveLength(3);
  const [office] = await readEndpoints(database.pool, seal);
  expect([office?.secret, office?.former?.secret]).toEqual(['whsec_second', 'whsec_first']);
  const proof = await readProof(database.pool, 'mara');
  expect(seal.open(proof?.codeSecret ?? Buffer.alloc(0), ofPerson('mara'))).toBe('CODES');
  // A second time there is nothing to be done.
  expect((await doCommand(['rotate-key'], configWith(settings)))?.lines[0]).toContain('0 secrets');
});

test('where one secret cannot be opened, none is sealed anew', async () => {
  const [before, next] = [newKey(), newKey()];
  await keepSecrets(before);
  await makePerson(database.pool, {
    name: 'jarl',
    password: 'four grey gulls on deck',
    role: 'viewer',
    by: 'the test',
  });
  await keepCodes(database.pool, {
    name: 'jarl',
    secret: new Seal(newKey()).seal('CODES', ofPerson('jarl')),
  });
  const config = configWith({ SEAL_KEY: next, SEAL_KEYS_FORMER: before });
  await expect(doCommand(['rotate-key'], config)).rejects.toThrow('another key');
  expect(await unopened(database.pool, new Seal(before))).toEqual(['person jarl']);
});

test('a wrong key stops the start, with a sentence that says which secret it does not open', async () => {
  await keepSecrets(newKey());
  const config = configWith({ SEAL_KEY: newKey(), LOG_LEVEL: 'silent' });
  await expect(startServer(config)).rejects.toThrow(
    'SEAL_KEY is not the key with which “endpoint office” and 2 more was sealed. Give the right one, or that one in SEAL_KEYS_FORMER.',
  );
});

test('the audit is verified, and what was changed behind its back is named', async () => {
  const entry = {
    at: '2026-11-27T08:00:00.000Z',
    person: 'mara',
    from: '',
    what: 'signed in',
    kind: 'person',
    key: 'mara',
  };
  for (let at = 0; at < 3; at++) await append(database.pool, { ...entry, result: 'done', changes: [] });
  const config = configWith({ SEAL_KEY: newKey() });
  const whole = await doCommand(['audit', 'verify'], config);
  expect(whole).toMatchObject({
    code: 0,
    lines: ['3 entries, each as it was written.', expect.stringMatching(/ 3:[0-9a-f]{64}$/)],
  });
  const noted = whole?.lines[1]?.split(' ').at(-1) ?? '';
  expect((await doCommand(['audit', 'verify', noted], config))?.code).toBe(0);
  await database.pool.query(
    `ALTER TABLE audit DISABLE TRIGGER USER; UPDATE audit SET person = 'jarl' WHERE id = 2`,
  );
  expect(await doCommand(['audit', 'verify'], config)).toEqual({
    code: 1,
    lines: ['The audit was changed at entry 2. What it is found by is not what it says.'],
  });
});

test('other words are told what there is', async () => {
  const config = configWith({ SEAL_KEY: newKey() });
  expect(await doCommand([], config)).toBeUndefined();
  expect(await doCommand(['rotate-key'], config)).toMatchObject({
    code: 2,
    lines: [expect.stringContaining('SEAL_KEYS_FORMER')],
  });
  expect(await doCommand(['dance'], config)).toEqual({
    code: 2,
    lines: ['There is no “dance”. There is: audit verify, rotate-key.'],
  });
});
