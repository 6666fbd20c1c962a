import fc from 'fast-check';
import { changedPaths, sameValue } from './equal';
import { readPath, sameJson, writePath, type Json, type JsonObject } from './json';
import { nfc } from './nfc';
import { linesIn } from '../engine/actions';
import { ruleBodySchema, sameRule, type RuleBody } from '../engine/rule';
import { fieldAt, leafFields, systemSchema, type Field, type FieldType } from './system';
import { TableIndex } from '../table/tableIndex';
import type { LookupTable } from '../table/table';

const field = (type: FieldType): Field => ({ name: 'f', label: 'F', type });

describe('two stored values are the same', () => {
  test.each<[FieldType, Json, Json]>([
    ['integer', '5', 5],
    ['integer', 5, 5.0],
    ['decimal', '12.50', 12.5],
    ['decimal', '1e2', 100],
    ['boolean', 'true', true],
    ['boolean', 'FALSE', false],
    ['datetime', '2026-01-01T00:00Z', '2026-01-01T00:00:00+00:00'],
    ['datetime', '2026-01-01T00:00:00Z', '2026-01-01T01:00:00+01:00'],
    ['multichoice', ['a', 'b'], ['b', 'a']],
    ['multichoice', 'a', ['a']],
    ['text', 'A\u030a', 'Å'],
    ['text', null, ''],
    ['choice', '', null],
  ])('%s: %j and %j', (type, a, b) => expect(sameValue(field(type), a, b)).toBe(true));

  test.each<[FieldType, Json, Json]>([
    ['integer', '5', 6],
    ['text', '5', '5.0'],
    ['text', 'a', 'A'],
    ['text', ' a', 'a'],
    ['boolean', true, null],
    ['datetime', '2026-01-01T00:00:00Z', '2026-01-01T00:00:01Z'],
    ['datetime', 'soon', 'later'],
    ['decimal', '9007199254740993', '9007199254740992'],
    ['multichoice', ['a'], ['a', 'b']],
    ['text', 0 as Json, ''],
  ])('%s: %j differs from %j', (type, a, b) => expect(sameValue(field(type), a, b)).toBe(false));

  test('sameness goes both ways and every value is the same as itself', () => {
    const types = fc.constantFrom<FieldType>(
      'text',
      'integer',
      'decimal',
      'boolean',
      'date',
      'datetime',
      'choice',
      'multichoice',
    );
    const value = fc.oneof(
      fc.string(),
      fc.integer(),
      fc.boolean(),
      fc.constant(null),
      fc.array(fc.string(), { maxLength: 3 }),
    );
    fc.assert(
      fc.property(types, value, value, (type, a, b) => {
        expect(sameValue(field(type), a, a)).toBe(true);
        expect(sameValue(field(type), a, b)).toBe(sameValue(field(type), b, a));
      }),
    );
  });
});

describe('the paths at which records differ', () => {
  const fields: readonly Field[] = [
    { name: 'name', label: 'Name', type: 'text' },
    { name: 'rev', label: 'Rev', type: 'integer', keptBySystem: true },
    {
      name: 'address',
      label: 'Address',
      type: 'object',
      fields: [
        { name: 'town', label: 'Town', type: 'text' },
        { name: 'country', label: 'Country', type: 'text' },
      ],
    },
  ];

  test.each<[string, JsonObject, JsonObject, string[]]>([
    ['nothing', { name: 'a' }, { name: 'a' }, []],
    [
      'a field inside an object',
      { address: { town: 'x', country: 'GB' } },
      { address: { town: 'y', country: 'GB' } },
      ['address.town'],
    ],
    ['an object that comes', {}, { address: { town: 'y' } }, ['address.town']],
    [
      'an object that goes',
      { address: { town: 'y', country: 'GB' } },
      {},
      ['address.town', 'address.country'],
    ],
    ['what the system keeps itself', { rev: 1 }, { rev: 2 }, []],
    ['a field that the schema does not know', { extra: [1] }, { extra: [2] }, ['extra']],
    [
      'an unknown field that is the same in another order',
      { extra: { a: 1, b: 2 } },
      { extra: { b: 2, a: 1 } },
      [],
    ],
  ])('%s', (_name, before, after, paths) => expect(changedPaths(fields, before, after)).toEqual(paths));

  test('leaves are named with their objects, and found again by their paths', () => {
    const leaves = leafFields(fields);
    expect(leaves.map(({ path, label }) => [path, label])).toEqual([
      ['name', 'Name'],
      ['rev', 'Rev'],
      ['address.town', 'Address › Town'],
      ['address.country', 'Address › Country'],
    ]);
    for (const leaf of leaves) expect(fieldAt(fields, leaf.path)).toBe(leaf.field);
    expect(fieldAt(fields, 'address.nowhere')).toBeUndefined();
  });
});

describe('paths into records', () => {
  test('what was written at a path is read there, and the record given is left as it was', () => {
    const path = fc
      .array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 4 })
      .map((steps) => steps.join('.'));
    fc.assert(
      fc.property(
        fc.dictionary(fc.constantFrom('a', 'b', 'c'), fc.string(), { noNullPrototype: true }),
        path,
        fc.string(),
        (record, at, value) => {
          const before = JSON.stringify(record);
          expect(readPath(writePath(record, at, value), at)).toBe(value);
          expect(JSON.stringify(record)).toBe(before);
        },
      ),
    );
  });

  test('only own members count, and __proto__ is a name like any other', () => {
    expect(readPath({}, 'constructor')).toBeUndefined();
    expect(readPath({ a: {} }, 'a.toString')).toBeUndefined();
    const written = writePath({}, '__proto__', 'x');
    expect(Object.getPrototypeOf(written)).toBe(Object.prototype);
    expect(readPath(written, '__proto__')).toBe('x');
  });

  test('writing nothing takes the member away', () => {
    expect(writePath({ a: { b: 1, c: 2 } }, 'a.b', undefined)).toEqual({ a: { c: 2 } });
  });
});

describe('lookup tables', () => {
  const table = (more: Partial<LookupTable>): TableIndex =>
    new TableIndex({
      name: 'T',
      columns: [
        { name: 'system', label: 'System', type: 'text', key: true },
        { name: 'code', label: 'Code', type: 'text', key: true },
        { name: 'value', label: 'Value', type: 'text', key: false },
      ],
      rows: [
        ['CB', 'GB', 'GBR'],
        ['CB', 'gb', 'lower'],
        ['FD', 'GB', 'other'],
      ],
      matching: 'exact',
      onMiss: 'blank',
      ...more,
    });

  test('several keys together name a row', () => {
    expect(table({}).find(['FD', 'GB'])?.[2]).toBe('other');
    expect(table({}).find(['FD', 'NO'])).toBeUndefined();
    expect(table({}).keyCount).toBe(2);
  });

  test('exact tables tell case apart, caseless ones do not and keep the first row', () => {
    expect(table({}).find(['CB', 'gb'])?.[2]).toBe('lower');
    expect(table({ matching: 'caseless' }).find(['cb', 'gb'])?.[2]).toBe('GBR');
  });

  test('keys cannot be mistaken for each other by what stands between them', () => {
    const index = table({
      rows: [
        ['a","b', 'c', '1'],
        ['a', 'b","c', '2'],
      ],
    });
    expect(index.find(['a', 'b","c'])?.[2]).toBe('2');
  });

  test('keys are compared in normal form', () => {
    const index = table({ rows: [['CB', 'A\u030a', 'ring']] });
    expect(index.find(['CB', 'Å'])?.[2]).toBe('ring');
  });
});

test('normal form C: composed and decomposed letters become one (Unicode Standard Annex 15, from memory)', () => {
  expect(nfc('e\u0301')).toBe('é');
  expect(nfc('\u212b')).toBe('Å');
  expect(nfc('plain')).toBe('plain');
});

describe('what comes from outside', () => {
  const body: RuleBody = {
    name: 'R',
    note: '',
    trigger: { system: 's', recordType: 't', kinds: ['updated'], watched: ['a'] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 's',
        recordType: 't',
        match: [{ field: 'id', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [{ kind: 'write', target: 'party', lines: [{ field: 'x', formula: '1', policy: 'always' }] }],
  };

  test('a rule is the same in whatever order a database keeps its members, and not with another formula', () => {
    const { name, ...rest } = body;
    expect(sameRule(body, { ...rest, name })).toBe(true);
    expect(sameRule(body, { ...body, guard: 'x' })).toBe(false);
  });

  test('a whole rule is taken', () => expect(ruleBodySchema.validate(body).error).toBeUndefined());

  test.each<[string, unknown, string]>([
    ['an unknown member', { ...body, colour: 'red' }, 'colour'],
    ['no kind of change', { ...body, trigger: { ...body.trigger, kinds: [] } }, 'kinds'],
    ['a kind that there is not', { ...body, trigger: { ...body.trigger, kinds: ['renamed'] } }, 'kinds'],
    [
      'two lines on one target',
      {
        ...body,
        actions: [
          {
            kind: 'write',
            target: 'party',
            lines: [linesIn(body.actions[0])[0], linesIn(body.actions[0])[0]],
          },
        ],
      },
      'duplicate',
    ],
    [
      'an alias that means something else',
      { ...body, finds: [{ ...body.finds[0], alias: 'before' }] },
      'alias',
    ],
    ['two finds of one name', { ...body, finds: [body.finds[0], body.finds[0]] }, 'duplicate'],
    ['a find without conditions', { ...body, finds: [{ ...body.finds[0], match: [] }] }, 'match'],
    ['a formula beyond all bounds', { ...body, guard: 'x'.repeat(10_001) }, 'guard'],
    [
      'an unknown policy',
      {
        ...body,
        actions: [{ kind: 'write', target: 'party', lines: [{ field: 'x', formula: '1', policy: 'maybe' }] }],
      },
      'policy',
    ],
  ])('%s is refused by name', (_name, given, named) => {
    expect(ruleBodySchema.validate(given, { convert: false }).error?.message).toContain(named);
  });

  test('names of fields may hold spaces and letters of any script, but no dot', () => {
    const system = (name: string) => ({
      key: 'fleet-log',
      tag: 'FL',
      name: 'Fleet Log',
      hue: 30,
      recordTypes: [
        {
          name: 'vessel',
          label: 'Vessel',
          plural: 'Vessels',
          idField: name,
          nameField: name,
          fields: [{ name, label: 'X', type: 'text' }],
        },
      ],
    });
    expect(systemSchema.validate(system('Vessel Størrelse')).error).toBeUndefined();
    expect(systemSchema.validate(system('vessel.size')).error?.message).toContain('API name');
    expect(systemSchema.validate({ ...system('x'), tag: 'Fleet' }).error?.message).toContain('tag');
  });
});

test('JSON is the same whatever the order of its members, and not by type', () => {
  const one = { a: 1, b: [{ c: null, d: 'x' }] };
  expect(sameJson(one, { b: [{ d: 'x', c: null }], a: 1 })).toBe(true);
  expect(sameJson(one, { a: 1, b: [{ d: 'x' }] })).toBe(false);
  expect(sameJson(one, { ...one, e: undefined })).toBe(false);
  expect(sameJson({ a: 1 }, { a: '1' })).toBe(false);
  expect(sameJson([1, 2], [2, 1])).toBe(false);
  expect(sameJson([], {})).toBe(false);
});
