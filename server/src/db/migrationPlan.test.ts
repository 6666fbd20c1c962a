import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { readMigrations } from './migrate';
import { checksumOf, planMigrations, type Applied, type Migration } from './migrationPlan';

const folder = resolve(__dirname, '../../migrations');
const file = (name: string, sql = `-- ${name}`): Migration => ({
  name,
  sql,
  checksum: checksumOf(sql),
  earlier: [],
});
const applied = ({ name, checksum }: Migration): Applied => ({ name, checksum });
const [start, rights, jobs] = [file('001_start.sql'), file('002_rights.sql'), file('003_jobs.sql')];
const because = (files: readonly Migration[], done: readonly Applied[]) => {
  const plan = planMigrations(files, done);
  return plan.ok ? undefined : plan.because;
};

test('a new database goes through all migrations, in the order of their numbers', () => {
  const plan = planMigrations([jobs, start, rights], []);
  expect(plan).toEqual({ ok: true, pending: [start, rights, jobs] });
});

test('a database goes through what is new to it, and through nothing twice', () => {
  expect(planMigrations([start, rights, jobs], [applied(start)])).toEqual({
    ok: true,
    pending: [rights, jobs],
  });
  expect(planMigrations([start, rights], [applied(start), applied(rights)])).toEqual({
    ok: true,
    pending: [],
  });
});

test('a database from before checksums were kept is taken as it is', () => {
  expect(planMigrations([start, rights], [{ name: start.name, checksum: null }])).toEqual({
    ok: true,
    pending: [rights],
  });
});

test('a database that went through another form that was delivered is taken as well, and no third one is', () => {
  const [other, third] = [file(rights.name, 'SELECT 2'), file(rights.name, 'SELECT 3')];
  const files = [start, { ...rights, earlier: [other.checksum] }, jobs];
  expect(planMigrations(files, [applied(start), applied(other)])).toEqual({ ok: true, pending: [jobs] });
  expect(because(files, [applied(start), applied(third)])).toMatch(/“002_rights.sql” is not what it was/);
});

test('a database that went through the other forms of 008 and 011, and all up to 022, has only to go through what came since', async () => {
  const files = await readMigrations(folder);
  const others: Readonly<Record<string, string>> = {
    '008_connections.sql': '357a42715d5a6c3355ea1d6075350d2a8d07a8b63ba26bc7df91855967c0b6b1',
    '011_digests.sql': 'e5aa82c0d35759deae2e5b0eb2077e16d04afc1853f3c4cd54c0d38369992a21',
  };
  const through = files
    .filter(({ name }) => name < '023')
    .map(({ name, checksum }): Applied => ({ name, checksum: others[name] ?? checksum }));
  const plan = planMigrations(files, through);
  expect(plan.ok && plan.pending.map(({ name }) => name)).toEqual(
    files.map(({ name }) => name).filter((name) => name >= '023'),
  );
});

test.each([
  [
    'a changed one',
    [file('001_start.sql', 'SELECT 2')],
    [applied(start)],
    /“001_start.sql” is not what it was/,
  ],
  [
    'one that is not known',
    [start],
    [applied(start), applied(rights)],
    /which this version does not know. Start the newer/,
  ],
  [
    'one that was left out',
    [start, rights, jobs],
    [applied(start), applied(jobs)],
    /not through “002_rights.sql”/,
  ],
  [
    'a number that is taken twice',
    [start, rights, file('002_other.sql')],
    [],
    /not numbered one by one: “002_rights.sql”/,
  ],
  ['a gap', [start, jobs], [], /stands where 002 is expected/],
  ['a name without a number', [file('start.sql')], [], /“start.sql” is misnamed/],
] as const)('%s stops the start with what to do', (_name, files, done, sentence) => {
  expect(because(files, done)).toMatch(sentence);
});

test('line ends do not change a migration, and any other character does', () => {
  expect(checksumOf('SELECT 1;\r\nSELECT 2;\r\n')).toBe(checksumOf('SELECT 1;\nSELECT 2;\n'));
  expect(checksumOf('SELECT 1;')).not.toBe(checksumOf('SELECT 1 ;'));
});

test('the migrations that have landed are as they were then', async () => {
  const landed = JSON.parse(readFileSync(resolve(folder, 'landed.json'), 'utf8')) as Record<string, string>;
  const files = await readMigrations(folder);
  expect(files.map(({ name, checksum }) => [name, checksum])).toEqual(
    expect.arrayContaining(Object.entries(landed)),
  );
  // Whoever adds a migration adds its line, and from then on it does not change.
  expect(files.map(({ name }) => name)).toEqual(Object.keys(landed));
});
