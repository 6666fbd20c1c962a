import { compileRule } from './compileRule';
import { fieldsOf } from '../change/fields';
import { runEvent } from './run';
import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import type { StoredRecord } from '../model/record';
import type { Rule } from './rule';
import type { MappingLine } from './actions/mappingLine';
import { Catalog, type Field, type RecordType, type System } from '../model/system';
import { MemoryWorkspace } from '../workspace/memory';
import type { Search, Workspace } from '../workspace/workspace';

const text = (name: string): Field => ({ name, label: name, type: 'text' });
const pointer = (name: string, ...refersTo: string[]): Field => ({
  name,
  label: name,
  type: 'reference',
  refersTo,
});
const type = (name: string, ...fields: Field[]): RecordType => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'name',
  fields: [text('id'), text('name'), ...fields],
});

const fleet: System = {
  key: 'fleet',
  tag: 'FL',
  name: 'Fleet',
  hue: 90,
  recordTypes: [
    type('port', text('region')),
    type('vessel', pointer('home', 'port')),
    type('person'),
    type('agency'),
    type(
      'voyage',
      pointer('vessel', 'vessel'),
      pointer('master', 'person', 'agency'),
      text('masterName'),
      text('region'),
      {
        name: 'labels',
        label: 'labels',
        type: 'multichoice',
      },
    ),
  ],
};
const catalog = new Catalog([fleet]);
const stored = (recordType: string, record: JsonObject): StoredRecord => ({
  ref: { system: 'fleet', recordType, id: String(record['id']) },
  record,
});

const world = [
  stored('port', { id: 'p1', name: 'Northport', region: 'North' }),
  stored('vessel', { id: 'v1', name: 'Skerry Maid', home: 'p1' }),
  stored('person', { id: 'm1', name: 'Ada Reid' }),
  stored('person', { id: 'm2', name: 'Bo Lund' }),
  stored('person', { id: 'm3', name: 'Bo Lund' }),
  stored('agency', { id: 'a1', name: 'Ada Reid' }),
];
const voyage: JsonObject = {
  id: 'y1',
  name: 'Y1',
  vessel: 'v1',
  master: 'm9',
  masterName: 'Ada Reid',
  labels: ['late'],
};

const line = (field: string, formula: string, more: Partial<MappingLine> = {}): MappingLine => ({
  field,
  formula,
  policy: 'always',
  ...more,
});

async function run(lines: readonly MappingLine[], record: JsonObject = voyage, guard = '') {
  const rule: Rule = {
    id: 'r1',
    version: 1,
    name: 'Voyage',
    note: '',
    trigger: { system: 'fleet', recordType: 'voyage', kinds: ['updated'], watched: [] },
    guard,
    finds: [],
    actions: [{ kind: 'write', target: 'record', lines }],
  };
  const compiled = compileRule(rule, { catalog, tables: new Map() });
  if (!compiled.ok)
    throw new Error(compiled.problems.map(({ at, error }) => `${at}: ${error.message}`).join('\n'));
  const searches: Search[] = [];
  const memory = new MemoryWorkspace(catalog, [...world, stored('voyage', record)]);
  const workspace: Workspace = {
    get: (ref) => memory.get(ref),
    apply: (changes) => memory.apply(changes),
    find: (search) => {
      searches.push(search);
      return memory.find(search);
    },
  };
  const event: ChangeEvent = {
    id: 'e1',
    source: '/fleet',
    kind: 'updated',
    ref: { system: 'fleet', recordType: 'voyage', id: 'y1' },
    time: '2026-03-09T10:00:00Z',
    record,
    changed: ['masterName'],
  };
  const { report } = await runEvent(event, { catalog, rules: [compiled.compiled], workspace });
  const step = report.rules[0]?.steps.find((each) => each.kind === 'write');
  return {
    edits: report.writes.flatMap(({ change }) => fieldsOf(change)),
    lines: step?.kind === 'write' ? step.lines : [],
    report,
    searches,
  };
}

describe('a reference is followed in a formula', () => {
  test('through one record and the next', async () => {
    const { edits } = await run([line('region', 'vessel.home.region')]);
    expect(edits).toEqual([{ path: 'region', before: undefined, after: 'North' }]);
  });

  test('in the guard too', async () => {
    expect((await run([line('region', '"x"')], voyage, 'vessel.name = "Skerry Maid"')).edits).toHaveLength(1);
    expect((await run([line('region', '"x"')], voyage, 'vessel.name = "Other"')).edits).toHaveLength(0);
  });

  test('to blank, when it points to nothing', async () => {
    const { lines } = await run([line('region', 'vessel.home.region')], { ...voyage, vessel: 'v9' });
    expect(lines[0]).toMatchObject({ value: { json: null }, verdict: 'same' });
  });

  test('a misspelt field behind it is named', async () => {
    await expect(run([line('region', 'vessel.hme.region')])).rejects.toThrow(
      'vessel has no field “hme.region”',
    );
    await expect(run([line('region', 'vessel.home.regon')])).rejects.toThrow(
      'port has no field “regon”. Did you mean “region”?',
    );
  });
});

describe('a reference is set by a natural key', () => {
  const byName = { recordType: 'person', field: 'name', none: 'fail', several: 'fail' } as const;

  test('the record whose name it is gives its id', async () => {
    const { edits } = await run([line('master', 'masterName', { reference: byName })]);
    expect(edits).toEqual([{ path: 'master', before: 'm9', after: 'm1' }]);
  });

  test('a field that allows several types says which is meant', async () => {
    const { edits } = await run([
      line('master', 'masterName', { reference: { ...byName, recordType: 'agency' } }),
    ]);
    expect(edits).toEqual([{ path: 'master', before: 'm9', after: 'a1' }]);
  });

  test.each([
    ['fail', 'error', 'There is no person whose “name” is “Nobody”.'],
    ['keep', 'kept', 'No record has this key; what is there stays.'],
    ['blank', 'changes', null],
  ] as const)('none: %s', async (none, verdict, because) => {
    const record = { ...voyage, masterName: 'Nobody' };
    const { lines } = await run([line('master', 'masterName', { reference: { ...byName, none } })], record);
    expect(lines[0]).toMatchObject({ verdict, because });
  });

  test('several: the line fails and names them, or takes the first', async () => {
    const record = { ...voyage, masterName: 'Bo Lund' };
    const failing = await run([line('master', 'masterName', { reference: byName })], record);
    expect(failing.lines[0]).toMatchObject({
      verdict: 'error',
      because: 'There are 2 of person whose “name” is “Bo Lund”: m2, m3.',
    });
    const first = await run(
      [line('master', 'masterName', { reference: { ...byName, several: 'first' } })],
      record,
    );
    expect(first.edits).toEqual([{ path: 'master', before: 'm9', after: 'm2' }]);
  });

  test('a blank key looks for nothing', async () => {
    const record = { ...voyage, masterName: null };
    const { searches, lines } = await run([line('master', 'masterName', { reference: byName })], record);
    expect(searches).toEqual([]);
    expect(lines[0]).toMatchObject({ value: { json: null } });
  });

  test('a type that the field does not allow, and a field that is no reference, are refused', async () => {
    await expect(
      run([line('master', 'masterName', { reference: { ...byName, recordType: 'port' } })]),
    ).rejects.toThrow('“master” does not point to “port”.');
    await expect(run([line('region', 'masterName', { reference: byName })])).rejects.toThrow(
      'is no reference',
    );
  });
});

describe('write policies', () => {
  const lineOf = async (held: JsonObject, formula: string, policy: MappingLine['policy'], field = 'region') =>
    (await run([line(field, formula, { policy })], { ...voyage, ...held })).lines[0];

  test('always writes, blank included', async () => {
    expect(await lineOf({ region: 'North' }, '""', 'always')).toMatchObject({
      verdict: 'changes',
      value: { json: null },
    });
  });

  test('target blank leaves what stands there', async () => {
    expect(await lineOf({ region: 'North' }, '"South"', 'target blank')).toMatchObject({ verdict: 'kept' });
    expect(await lineOf({ region: null }, '"South"', 'target blank')).toMatchObject({ verdict: 'changes' });
  });

  test('value present leaves the field when the formula gives blank', async () => {
    expect(await lineOf({ region: 'North' }, '""', 'value present')).toMatchObject({ verdict: 'kept' });
  });

  test('never clear takes nothing away: no blank, and none of the chosen options', async () => {
    expect(await lineOf({ region: 'North' }, '""', 'never clear')).toMatchObject({
      verdict: 'kept',
      because: 'Blank would clear the field.',
    });
    expect(await lineOf({ region: 'North' }, '"South"', 'never clear')).toMatchObject({ verdict: 'changes' });
    expect(await lineOf({ labels: ['late'] }, '{"cold"}', 'never clear', 'labels')).toMatchObject({
      value: { json: ['late', 'cold'] },
    });
    expect(await lineOf({ labels: ['late'] }, '{"cold"}', 'always', 'labels')).toMatchObject({
      value: { json: ['cold'] },
    });
  });
});
