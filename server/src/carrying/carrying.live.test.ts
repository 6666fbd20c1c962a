import { createHash } from 'node:crypto';
import { Agent } from 'undici';
import {
  archiveOf,
  bundleFiles,
  bundleOf,
  bundleText,
  emptyBundle,
  filesInArchive,
  itemsOf,
  textOfItem,
  rebound,
  emptyConnection,
  type ImportAsked,
  type LookupTable,
  type RuleBody,
  type Sample,
  type WholeBundle,
} from '@vast-knot/core';
import { here } from '../compute/computer';
import { inTransaction } from '../db/pool';
import { Gates } from '../connector/gates';
import { Seal } from '../db/seal';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookSystem, deskSystem, line, phoneToBookings } from '../fixtures/harbour';
import { HttpProblem } from '../http/problem';
import { keepEnvironment } from '../people/environment';
import { RegistryCache } from '../registry/registry';
import { listRemoved, publishRule, readRule, saveDraft } from '../rules/repository';
import { changeSample, lockSample, readSamples } from '../samples/repository';
import { insertSystem, readConnection, readSystems } from '../systems/repository';
import { changeTable } from '../tables/changeTable';
import { readTable } from '../tables/repository';
import { doImport, planImport, undoImport } from './carrying';
import { listImports } from './imports';

const seal = new Seal(Buffer.alloc(32, 7).toString('base64'));
let database: TestDatabase;
let registry: RegistryCache;

const { id: _id, version: _version, ...phoneBody } = phoneToBookings;
const zoneId = '0192f3a0-0001-7000-8000-0000000000aa';
const zones = (rows: string[][] = [['Skarvøy', 'N1']]): LookupTable => ({
  name: 'Zones',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
  rows,
});
const zoneRule = (name = 'Zone of a company', system = 'book'): RuleBody => ({
  ...phoneBody,
  name,
  trigger: { ...phoneBody.trigger, system },
  finds: [],
  actions: [{ kind: 'write', target: 'record', lines: [line('note', 'TABLE("Zones", town, "zone")')] }],
});
const sample: Sample = {
  id: '0192f3b0-0001-7000-8000-0000000000aa',
  name: 'Company moves',
  note: '',
  event: {
    id: 'e1',
    source: '/book',
    kind: 'updated',
    ref: { system: 'book', recordType: 'company', id: 'C1' },
    time: '2026-03-09T09:00:00Z',
    record: { id: 'C1', town: 'Skarvøy', phone: '1' },
    before: { id: 'C1', town: 'Skarvøy', phone: '2' },
    changed: ['phone'],
  },
  records: [
    { ref: { system: 'book', recordType: 'company', id: 'C1' }, record: { id: 'C1', town: 'Skarvøy' } },
  ],
  expected: {
    records: [{ key: 'book/company/C1', deed: 'write', fields: { note: { is: 'equal', value: 'N1' } } }],
    messages: [],
    problems: [],
  },
};
const carriedBundle = (changes: Partial<WholeBundle> = {}): WholeBundle => ({
  ...emptyBundle,
  systems: [{ system: { ...bookSystem, key: 'book' } }],
  tables: [zones()],
  rules: [{ id: zoneId, published: true, folder: 'Ports', rule: zoneRule() }],
  samples: [sample],
  ...changes,
});
const asking = (bundle: WholeBundle, more: Partial<ImportAsked> = {}): ImportAsked => ({
  files: [{ name: 'trial.json', text: bundleText(bundle) }],
  systems: {},
  addresses: {},
  take: {},
  known: {},
  running: false,
  ...more,
});
/** The sample as it is where the book is called otherwise. */
const inTrial = (given: Sample): Sample =>
  rebound({ ...emptyBundle, samples: [given] }, { systems: { book: 'trial-book' }, addresses: {} })
    .samples[0] ?? given;
const parts = async () => ({ pool: database.pool, seal, computer: here, registry: await registry.get() });
const plan = async (asked: ImportAsked) => planImport(asked, await parts());
const take = async (asked: ImportAsked) => {
  const { stamp } = await plan(asked);
  return doImport({ ...asked, stamp }, 'mara', await parts());
};
const refusal = async (asked: ImportAsked & { stamp?: string }) => {
  try {
    const { stamp = (await plan(asked)).stamp } = asked;
    await doImport({ ...asked, stamp }, 'mara', await parts());
  } catch (thrown) {
    if (thrown instanceof HttpProblem) return { status: thrown.status, detail: thrown.detail };
    throw thrown;
  }
  throw new Error('it was not refused');
};
const states = async (asked: ImportAsked) =>
  Object.fromEntries((await plan(asked)).items.map(({ kind, state, taken }) => [kind, `${state}, ${taken}`]));
const rule = () => readRule(database.pool, zoneId);
const editRule = async (name: string) =>
  saveDraft(database.pool, zoneId, (await rule())?.revision ?? 0, zoneRule(name), 'una');

beforeEach(async () => {
  database = await openTestDatabase();
  const inlet = readConnection({ events: { types: {}, record: '/record' } });
  await insertSystem(database.pool, { position: 0, definition: bookSystem, connection: inlet });
  await insertSystem(database.pool, { position: 1, definition: deskSystem, connection: inlet });
  registry = new RegistryCache(database.pool, seal, {
    dispatcher: new Agent(),
    gates: new Gates(),
    allowedOutbound: [],
  });
});
afterEach(() => database.close());

test('what is new is taken over as it came, with its samples; rules arrive as drafts', async () => {
  const asked = asking(carriedBundle());
  const shown = await plan(asked);
  expect(shown.problems).toEqual([]);
  expect(shown.samples).toEqual([
    { id: sample.id, name: 'Company moves', verdict: 'holds', differences: [] },
  ]);
  expect(shown.items.map(({ kind, name, state }) => [kind, name, state])).toEqual([
    ['table', 'Zones', 'new'],
    ['rule', 'Zone of a company', 'new'],
    ['sample', 'Company moves', 'new'],
  ]);
  await take(asked);
  expect(await rule()).toMatchObject({ folder: 'Ports', published: null, changedBy: 'mara' });
  expect((await readSamples(database.pool, sample.id))[0]).toMatchObject({ expected: sample.expected });
  expect((await readTable(database.pool, 'Zones'))?.rows.map(({ cells }) => cells)).toEqual([
    ['Skarvøy', 'N1'],
  ]);
});

test('the same again changes nothing, whether rules run or not', async () => {
  const asked = asking(carriedBundle(), { running: true });
  await take(asked);
  const before = await rule();
  expect(before?.published?.version).toBe(1);
  expect(await states(asked)).toEqual({ table: 'same, ours', rule: 'same, ours', sample: 'same, ours' });
  await take(asked);
  const after = await rule();
  expect([after?.revision, after?.published?.version]).toEqual([before?.revision, 1]);
  // What arrived stopped can be put in force by the same files.
  expect((await listImports(database.pool)).map(({ took }) => took.length)).toEqual([0, 3]);
});

test('what arrived as drafts runs once it is asked for', async () => {
  await take(asking(carriedBundle()));
  await take(asking(carriedBundle(), { running: true }));
  expect((await rule())?.published).toMatchObject({ version: 1, by: 'mara' });
});

test('what was changed there comes, what was changed here stays, and what was changed in both has to be said', async () => {
  await take(asking(carriedBundle()));
  await editRule('Zone of a company here');
  await changeSample(database.pool, sample.id, { note: 'looked at here' });
  const later = carriedBundle({
    tables: [zones([['Skarvøy', 'N2']])],
    rules: [{ id: zoneId, published: true, folder: 'Ports', rule: zoneRule('Zone of a company there') }],
  });
  const asked = asking(later);
  expect(await states(asked)).toEqual({
    table: 'changed there, theirs',
    rule: 'changed in both, null',
    sample: 'changed here, ours',
  });
  const shown = (await plan(asked)).items.find(({ kind }) => kind === 'rule');
  expect(shown?.changes).toEqual([
    { at: 'the rule, name', before: 'Zone of a company here', after: 'Zone of a company there' },
  ]);
  expect(await refusal(asked)).toEqual({
    status: 422,
    detail: 'Say which of the two is to stand for “Zone of a company there”.',
  });
  // Nothing of it was done.
  expect((await readTable(database.pool, 'Zones'))?.rows[0]?.cells).toEqual(['Skarvøy', 'N1']);
  await take({ ...asked, take: { [`rule ${zoneId}`]: 'ours' } });
  expect((await rule())?.draft.name).toBe('Zone of a company here');
  expect((await readTable(database.pool, 'Zones'))?.rows[0]?.cells).toEqual(['Skarvøy', 'N2']);
  // What was decided is not asked again.
  expect(await states(asked)).toEqual({
    table: 'same, ours',
    rule: 'changed here, ours',
    sample: 'changed here, ours',
  });
});

test('who changed something is known as well by how it last was in both, as whoever brings it noted', async () => {
  await take(asking(carriedBundle()));
  await editRule('Zone of a company here');
  const { items } = await plan(asking(carriedBundle()));
  expect(items.map(({ state }) => state)).toEqual(['same', 'changed here', 'same']);
  // It was fetched from here as it is by now, and changed there.
  const fetched = itemsOf(
    carriedBundle({
      rules: [{ id: zoneId, published: true, folder: 'Ports', rule: zoneRule('Zone of a company here') }],
    }),
  );
  const known = Object.fromEntries(
    fetched.map((item) => [
      `${item.kind} ${item.key}`,
      createHash('sha256').update(textOfItem(item)).digest('hex'),
    ]),
  );
  const later = carriedBundle({
    rules: [{ id: zoneId, published: true, folder: 'Ports', rule: zoneRule('Zone, later') }],
  });
  expect(await states(asking(later, { known }))).toMatchObject({ rule: 'changed there, theirs' });
  expect(await states(asking(later))).toMatchObject({ rule: 'changed in both, null' });
});

test('an import is taken back as one: what is still as it came goes back, what was changed since stays and is named', async () => {
  await take(asking(carriedBundle(), { running: true }));
  const second = carriedBundle({
    tables: [
      zones([
        ['Holmen', 'S1'],
        ['Skarvøy', 'N2'],
      ]),
    ],
    rules: [{ id: zoneId, published: true, folder: 'Harbours', rule: zoneRule('Zone, by port') }],
    samples: [{ ...sample, name: 'Company moves away' }],
  });
  const { id } = await take(asking(second, { running: true }));
  expect((await rule())?.published).toMatchObject({ version: 2, body: { name: 'Zone, by port' } });
  await changeSample(database.pool, sample.id, { note: 'kept' });
  const undone = await undoImport(id, 'mara', { pool: database.pool, seal });
  expect(undone).toEqual({
    back: 2,
    stays: [{ kind: 'sample', key: sample.id, name: 'Company moves away' }],
  });
  expect(await rule()).toMatchObject({
    folder: 'Ports',
    draft: { name: 'Zone of a company' },
    published: { version: 1 },
  });
  expect((await readTable(database.pool, 'Zones'))?.rows.map(({ cells }) => cells)).toEqual([
    ['Skarvøy', 'N1'],
  ]);
  expect(await undoImport(id, 'mara', { pool: database.pool, seal })).toBeUndefined();
  // How it last was in both is that of the import before.
  expect(await states(asking(second))).toMatchObject({
    table: 'changed there, theirs',
    rule: 'changed there, theirs',
  });
});

test('what somebody put in force since an import is theirs: taking it back stops nothing', async () => {
  const { id } = await take(asking(carriedBundle()));
  await publishRule(database.pool, zoneId, (await rule())?.revision ?? 0, { by: 'piet', note: '' });
  const undone = await undoImport(id, 'mara', { pool: database.pool, seal });
  // The table that the rule reads stays with it.
  expect(undone?.stays.map(({ kind }) => kind)).toEqual(['rule', 'table']);
  expect((await rule())?.published).toMatchObject({ version: 1, by: 'piet' });
  expect(await readTable(database.pool, 'Zones')).toBeDefined();
});

test('a table that rules here read, and could read no more, is not taken over', async () => {
  await take(asking(carriedBundle(), { running: true }));
  const [port, zone] = zones().columns;
  if (!port || !zone) throw new Error('the table has two columns');
  const other = { ...zones(), columns: [port, { ...zone, name: 'region' }] };
  const asked = asking({ ...emptyBundle, tables: [other] });
  expect((await plan(asked)).problems).toEqual([
    expect.stringMatching(/^“Zone of a company”, which runs here, would run no more: /),
  ]);
  expect(await refusal(asked)).toMatchObject({ status: 422 });
  expect((await readTable(database.pool, 'Zones'))?.definition.columns[1]?.name).toBe('zone');
});

test('a sample that came says who brought it, to whoever changes it next', async () => {
  await take(asking(carriedBundle()));
  const changedBy = await inTransaction(
    database.pool,
    async (client) => (await lockSample(client, sample.id))?.changedBy,
  );
  expect(changedBy).toBe('mara');
});

test('the first import taken back leaves nothing of it, and a rule that went can come again', async () => {
  const { id } = await take(asking(carriedBundle(), { running: true }));
  expect(await undoImport(id, 'mara', { pool: database.pool, seal })).toEqual({ back: 3, stays: [] });
  expect(await rule()).toBeUndefined();
  expect(await readTable(database.pool, 'Zones')).toBeUndefined();
  expect(await readSamples(database.pool, sample.id)).toEqual([]);
  expect((await listRemoved(database.pool)).map(({ name }) => name)).toEqual(['Zone of a company']);
  expect(await states(asking(carriedBundle()))).toMatchObject({ rule: 'new, theirs' });
  await take(asking(carriedBundle()));
  expect((await rule())?.draft.name).toBe('Zone of a company');
});

test('a system is bound to another here, everywhere it is named; what is other in its fields is told', async () => {
  const theirs = { ...bookSystem, key: 'trial-book', name: 'Book of the trial' };
  const [company] = theirs.recordTypes;
  if (!company) throw new Error('the book has companies');
  const wider = {
    ...theirs,
    recordTypes: [
      { ...company, fields: [...company.fields, { name: 'iban', label: 'Account', type: 'text' as const }] },
    ],
  };
  const bundle = carriedBundle({
    systems: [{ system: wider }],
    rules: [{ id: zoneId, published: true, rule: zoneRule('Zone', 'trial-book') }],
    samples: [inTrial(sample)],
  });
  expect((await plan(asking(bundle))).problems).toEqual([
    'Say which system here stands for “Book of the trial”.',
  ]);
  const asked = asking(bundle, { systems: { 'trial-book': { is: 'bound', to: 'book' } } });
  const shown = await plan(asked);
  expect(shown.slots).toMatchObject([
    {
      key: 'trial-book',
      to: 'book',
      isNew: false,
      schema: [{ what: 'went', type: 'company', field: 'iban' }],
    },
  ]);
  expect(shown.samples[0]?.verdict).toBe('holds');
  await take(asked);
  expect((await rule())?.draft.trigger.system).toBe('book');
  expect((await readSamples(database.pool, sample.id))[0]?.event.ref.system).toBe('book');
});

test('a system can be connected with the import: it is paused until somebody looks at it, and goes with the import', async () => {
  const connection = { ...emptyConnection, recordTypes: { company: { path: '/companies' } } };
  const yard = { ...bookSystem, key: 'yard', tag: 'YD', name: 'Yard' };
  const bundle = carriedBundle({
    systems: [{ system: yard, connection }],
    rules: [{ id: zoneId, published: false, rule: zoneRule('Zone', 'yard') }],
    samples: [],
  });
  const asked = asking(bundle, { systems: { yard: { is: 'new', baseUrl: '', token: 'of the yard' } } });
  expect((await plan(asked)).problems).toEqual(['Say at which address “Yard” is reached.']);
  const said = {
    ...asked,
    systems: { yard: { is: 'new' as const, baseUrl: 'https://yard.example', token: 'of the yard' } },
  };
  expect((await plan(said)).problems).toEqual([]);
  const { id } = await take(said);
  const [kept] = await readSystems(database.pool, seal, ['yard']);
  expect(kept).toMatchObject({
    paused: true,
    secrets: { token: 'of the yard' },
    connection: { baseUrl: 'https://yard.example' },
  });
  expect(await undoImport(id, 'mara', { pool: database.pool, seal })).toEqual({ back: 3, stays: [] });
  expect(await readSystems(database.pool, seal, ['yard'])).toEqual([]);
});

test('a rule that does not fit here arrives as a draft alone, and with the reason', async () => {
  const bundle = carriedBundle({ tables: [] });
  const shown = await plan(asking(bundle));
  expect(shown.findings[0]?.findings[0]).toMatchObject({
    severity: 'error',
    message: expect.stringMatching(/“Zones”/) as string,
  });
  expect(shown.problems).toEqual([]);
  const refused = await refusal(asking(bundle, { running: true }));
  expect(refused).toMatchObject({
    status: 422,
    detail: expect.stringMatching(/^“Zone of a company” cannot run here/) as string,
  });
  expect(await rule()).toBeUndefined();
});

test('what somebody changed since it was shown is not overwritten', async () => {
  await take(asking(carriedBundle()));
  const asked = asking(carriedBundle({ tables: [zones([['Skarvøy', 'N2']])] }));
  const { stamp } = await plan(asked);
  const table = await readTable(database.pool, 'Zones');
  await changeTable(database.pool, { name: 'Zones', by: 'una', what: 'Edited' }, () => [
    { id: table?.rows[0]?.id ?? 0, before: ['Skarvøy', 'N1'], after: ['Skarvøy', 'N9'] },
  ]);
  expect(await refusal({ ...asked, stamp })).toMatchObject({ status: 412 });
  expect((await readTable(database.pool, 'Zones'))?.rows[0]?.cells).toEqual(['Skarvøy', 'N9']);
});

test('of two who import at the same time one comes after the other, and is told', async () => {
  const asked = asking(carriedBundle());
  const { stamp } = await plan(asked);
  const both = await Promise.allSettled(
    [0, 1].map(async () => doImport({ ...asked, stamp }, 'mara', await parts())),
  );
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(await listImports(database.pool)).toHaveLength(1);
});

test('where publishing wants two, rules that are to run wait for the second', async () => {
  await keepEnvironment(database.pool, { name: 'Real', colour: 'plain', secondPerson: true, revision: 1 });
  const done = await take(asking(carriedBundle(), { running: true }));
  expect(done.asked).toEqual(['Zone of a company']);
  expect(await rule()).toMatchObject({ published: null, asked: { by: 'mara' } });
});

test('what cannot be read is refused with its file and place', async () => {
  const odd = {
    ...asking(carriedBundle()),
    files: [{ name: 'odd.json', text: '{"vastKnot": 2, "colour": 1}' }],
  };
  await expect(plan(odd)).rejects.toMatchObject({
    status: 422,
    detail: expect.stringMatching(/^odd.json at colour/) as string,
  });
  const broken = { ...odd, files: [{ name: 'broken.json', text: '{"vastKnot"' }] };
  await expect(plan(broken)).rejects.toMatchObject({
    status: 422,
    detail: expect.stringMatching(/^broken.json is not JSON/) as string,
  });
});

test('files, one file and an archive hold the same, and the same content is the same bytes', async () => {
  await take(asking(carriedBundle()));
  const { tables } = await registry.get();
  const given = () =>
    bundleOf([zoneId], {
      ...carriedBundle({ tables: [...tables.values()].map(({ table }) => table) }),
    });
  const archive = archiveOf(bundleFiles(given()));
  expect(Buffer.from(archive).equals(Buffer.from(archiveOf(bundleFiles(given()))))).toBe(true);
  expect(filesInArchive(archive)).toEqual(bundleFiles(given()));
  const files = bundleFiles(given()).map(({ path, text }) => ({ name: path, text }));
  expect((await plan({ ...asking(carriedBundle()), files })).items.map(({ state }) => state)).toEqual([
    'same',
    'same',
    'same',
  ]);
});
