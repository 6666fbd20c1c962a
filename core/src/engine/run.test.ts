import type { CompiledRule } from './compiled';
import { compileRule } from './compileRule';
import { fieldsOf, recordAfter } from '../change/fields';
import type { Report } from './report';
import { deepestCascade, runEvent } from './run';
import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import type { StoredRecord } from '../model/record';
import type { Rule } from './rule';
import type { MappingLine } from './actions/mappingLine';
import { Catalog, type Field, type System } from '../model/system';
import { TableIndex } from '../table/tableIndex';
import { MemoryWorkspace } from '../workspace/memory';

const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});

const book: System = {
  key: 'book',
  tag: 'BK',
  name: 'Book',
  hue: 10,
  recordTypes: [
    {
      name: 'company',
      label: 'Company',
      plural: 'Companies',
      idField: 'id',
      nameField: 'name',
      fields: [
        text('id', { readOnly: true }),
        text('name'),
        text('phone'),
        text('terms'),
        { name: 'address', label: 'Address', type: 'object', fields: [text('town'), text('country')] },
      ],
    },
  ],
};
const desk: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 200,
  recordTypes: [
    {
      name: 'booking',
      label: 'Booking',
      plural: 'Bookings',
      idField: 'id',
      nameField: 'id',
      fields: [
        text('id', { readOnly: true }),
        text('owner'),
        text('phone', { maxLength: 13 }),
        text('town', { maxLength: 10 }),
        text('port'),
        text('zone'),
        text('state'),
      ],
    },
  ],
};
const catalog = new Catalog([book, desk]);
const zones = new TableIndex({
  name: 'Zones',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  rows: [['NOR', 'N2']],
  matching: 'exact',
  onMiss: 'stop',
});

const line = (field: string, formula: string, policy: MappingLine['policy'] = 'always'): MappingLine => ({
  field,
  formula,
  policy,
});

const toBookings: Rule = {
  id: 'r-1',
  version: 1,
  name: 'Phone to bookings',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['phone', 'address'] },
  guard: 'NOT(ISBLANK(phone))',
  finds: [
    {
      alias: 'booking',
      system: 'desk',
      recordType: 'booking',
      match: [
        { field: 'owner', is: 'equal', formula: 'id' },
        { field: 'state', is: 'in', formula: '{"open", "held"}' },
      ],
      none: 'stop',
      several: 'each',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'booking',
      lines: [line('phone', 'PHONE(phone, "GB")'), line('town', 'address.town')],
    },
  ],
};

const fillZone: Rule = {
  id: 'r-2',
  version: 1,
  name: 'Zone from port',
  note: '',
  trigger: {
    system: 'desk',
    recordType: 'booking',
    kinds: ['created', 'updated'],
    watched: ['port', 'town'],
  },
  guard: '',
  finds: [],
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: [line('zone', 'TABLE("Zones", port, "zone")', 'target blank')],
    },
  ],
};

function compiled(...rules: Rule[]): CompiledRule[] {
  return rules.map((rule) => {
    const result = compileRule(rule, { catalog, tables: new Map([['Zones', zones]]) });
    if (!result.ok)
      throw new Error(result.problems.map(({ at, error }) => `${at}: ${error.message}`).join('\n'));
    return result.compiled;
  });
}

const booking = (id: string, more: JsonObject = {}): StoredRecord => ({
  ref: { system: 'desk', recordType: 'booking', id },
  record: { id, owner: 'C-1', phone: null, town: 'Oldtown', port: 'NOR', zone: 'N1', state: 'open', ...more },
  version: '7',
});

const company: JsonObject = {
  id: 'C-1',
  name: 'North Skerry Fish',
  phone: '01632 960 120',
  terms: '30 days',
  address: { town: 'Northport', country: 'GB' },
};

function companyEvent(
  changed: string[],
  record: JsonObject = company,
  before: JsonObject = company,
): ChangeEvent {
  const ref = { system: 'book', recordType: 'company', id: 'C-1' };
  return {
    id: 'e-1',
    source: '/book',
    kind: 'updated',
    ref,
    time: '2026-03-09T22:30:00Z',
    record,
    before,
    changed,
  };
}

function bookingEvent(stored: StoredRecord, kind: ChangeEvent['kind'], changed: string[]): ChangeEvent {
  return {
    id: 'e-2',
    source: '/desk',
    kind,
    ref: stored.ref,
    time: '2026-03-09T22:30:00Z',
    record: stored.record,
    changed,
  };
}

const runWith = (event: ChangeEvent, rules: CompiledRule[], records: StoredRecord[]) =>
  runEvent(event, { catalog, rules, workspace: new MemoryWorkspace(catalog, records) });

/** The edits of the first write of a plan. */
const firstEdits = ({ writes }: Report) => writes.slice(0, 1).flatMap(({ change }) => fieldsOf(change));

describe('one change reaches other records', () => {
  test('every open booking of the company gets the phone in E.164 and the town; closed ones and others do not', async () => {
    const records = [
      booking('B-1'),
      booking('B-2', { state: 'held' }),
      booking('B-3', { state: 'closed' }),
      booking('B-4', { owner: 'C-2' }),
    ];
    const { report } = await runWith(companyEvent(['phone']), compiled(toBookings), records);
    expect(report.rules[0]).toMatchObject({ verdict: 'writes', because: 'Writes 2 records.' });
    expect(
      report.writes.map((write) => [
        write.change.ref.id,
        write.version,
        recordAfter(write)?.['phone'],
        recordAfter(write)?.['town'],
      ]),
    ).toEqual([
      ['B-1', '7', '+441632960120', 'Northport'],
      ['B-2', '7', '+441632960120', 'Northport'],
    ]);
  });

  test('the steps tell what the guard saw, what was looked for, and what each line gave', async () => {
    const { report } = await runWith(companyEvent(['phone']), compiled(toBookings), [booking('B-1')]);
    expect(report.rules[0]?.steps).toMatchObject([
      {
        kind: 'guard',
        holds: true,
        explained: { parts: [{ text: 'ISBLANK(phone)', value: { json: false } }] },
      },
      {
        kind: 'find',
        alias: 'booking',
        found: 1,
        conditions: [
          { field: 'owner', values: ['C-1'] },
          { field: 'state', values: ['open', 'held'] },
        ],
      },
      {
        kind: 'write',
        lines: [
          { field: 'phone', before: null, value: { json: '+441632960120' }, verdict: 'changes' },
          { field: 'town', before: 'Oldtown', value: { json: 'Northport' }, verdict: 'changes' },
        ],
      },
    ]);
  });

  test('another field changed: nothing fires, and the report says why', async () => {
    const { report, met } = await runWith(companyEvent(['terms']), compiled(toBookings), [booking('B-1')]);
    expect(report.rules[0]).toMatchObject({
      verdict: 'not watched',
      because: 'Only terms changed; the rule watches phone and Address.',
    });
    expect(met).toEqual([]);
  });

  test('a field inside a watched object counts', async () => {
    const { report } = await runWith(companyEvent(['address.town']), compiled(toBookings), [booking('B-1')]);
    expect(report.rules[0]?.verdict).toBe('writes');
  });

  test('a guard that does not hold stops the rule before anything is read', async () => {
    const { report, met } = await runWith(
      companyEvent(['phone'], { ...company, phone: '' }),
      compiled(toBookings),
      [booking('B-1')],
    );
    expect(report.rules[0]?.verdict).toBe('guard');
    expect(met).toEqual([]);
  });

  test('a write that changes nothing is dropped', async () => {
    const same = booking('B-1', { phone: '+441632960120', town: 'Northport' });
    const { report } = await runWith(companyEvent(['phone']), compiled(toBookings), [same]);
    expect(report.writes).toEqual([]);
    expect(report.rules[0]?.verdict).toBe('nothing to write');
  });

  test('a value too long for its field is reported by name and not cut, and its siblings are written', async () => {
    const long = { ...company, address: { town: 'Northport-under-the-Hill', country: 'GB' } };
    const { report } = await runWith(companyEvent(['phone'], long), compiled(toBookings), [booking('B-1')]);
    expect(report.rules[0]).toMatchObject({
      verdict: 'failed',
      because:
        'Writes 1 record; 1 line failed: town of booking B-1: “town” holds 10 characters at most, and the value has 24.',
    });
    expect(firstEdits(report).map((edit) => edit.path)).toEqual(['phone']);
  });

  test('a blank key finds nothing, rather than all records whose field is blank', async () => {
    const { report } = await runWith(
      companyEvent(['phone'], { ...company, id: null }),
      compiled(toBookings),
      [booking('B-1', { owner: null })],
    );
    expect(report.rules[0]).toMatchObject({
      verdict: 'nothing found',
      because: 'No booking was found for “booking”.',
    });
  });
});

describe('write policies', () => {
  const policies = (record: JsonObject, formula: string, policy: MappingLine['policy']) => {
    const stored = booking('B-1', record);
    const rule = {
      ...fillZone,
      actions: [{ kind: 'write' as const, target: 'record', lines: [line('zone', formula, policy)] }],
    };
    return runWith(bookingEvent(stored, 'created', []), compiled(rule), [stored]).then(({ report }) =>
      firstEdits(report),
    );
  };
  test('target blank: only a blank field is filled', async () => {
    expect(await policies({ zone: '' }, '"X1"', 'target blank')).toEqual([
      { path: 'zone', before: '', after: 'X1' },
    ]);
    expect(await policies({ zone: 'N1' }, '"X1"', 'target blank')).toEqual([]);
  });
  test('value present: a blank value leaves the field', async () => {
    expect(await policies({ zone: 'N1' }, 'target.phone', 'value present')).toEqual([]);
  });
  test('always: a blank value clears the field', async () => {
    expect(await policies({ zone: 'N1' }, 'target.phone', 'always')).toEqual([
      { path: 'zone', before: 'N1', after: null },
    ]);
  });
});

describe('what writes cause', () => {
  test('a second rule sees what the first wrote, in the same run, and both edits become one write', async () => {
    const { report } = await runWith(companyEvent(['phone']), compiled(toBookings, fillZone), [
      booking('B-1', { zone: '' }),
    ]);
    expect(report.rules.map((rule) => [rule.ruleName, rule.depth, rule.verdict])).toEqual([
      ['Phone to bookings', 0, 'writes'],
      ['Zone from port', 1, 'writes'],
    ]);
    expect(report.writes).toHaveLength(1);
    expect(report.writes[0]).toMatchObject({
      rules: [
        { id: 'r-1', name: 'Phone to bookings', version: 1 },
        { id: 'r-2', name: 'Zone from port', version: 1 },
      ],
    });
    expect(firstEdits(report).map((edit) => edit.path)).toEqual(['phone', 'town', 'zone']);
  });

  const swing = (name: string, from: string, to: string): Rule => ({
    ...fillZone,
    id: name,
    name,
    trigger: { ...fillZone.trigger, watched: ['zone'] },
    guard: `zone = "${from}"`,
    actions: [{ kind: 'write', target: 'record', lines: [line('zone', `"${to}"`)] }],
  });

  test('two rules that undo each other are stopped and named', async () => {
    const stored = booking('B-1', { zone: 'A' });
    const event = bookingEvent(stored, 'updated', ['zone']);
    const { report } = await runWith(
      { ...event, before: { ...stored.record, zone: 'B' } },
      compiled(swing('there', 'A', 'B'), swing('back', 'B', 'A')),
      [stored],
    );
    expect(report.problems).toHaveLength(1);
    expect(report.problems[0]).toMatch(
      /^A circle was stopped: “zone” of desk\/booking\/B-1 came back .* there/,
    );
  });

  test('a cascade that never repeats is stopped after eight', async () => {
    const stored = booking('B-1', { zone: 'x' });
    const grow: Rule = {
      ...fillZone,
      name: 'grow',
      trigger: { ...fillZone.trigger, watched: ['zone'] },
      actions: [{ kind: 'write', target: 'record', lines: [line('zone', 'zone & "x"')] }],
    };
    const again: Rule = { ...grow, id: 'r-again', name: 'grow again' };
    const event = bookingEvent(stored, 'updated', ['zone']);
    const { report } = await runWith(event, [...compiled(grow), ...compiled(again)], [stored]);
    expect(report.rules).toHaveLength(2 * (deepestCascade + 1));
    expect(report.problems[0]).toMatch(/followed 8 deep .* grow → grow again/);
  });

  test('a rule is not started again by its own write to the record that it started from', async () => {
    const stored = booking('B-1', { zone: 'x' });
    const grow: Rule = {
      ...fillZone,
      name: 'grow',
      trigger: { ...fillZone.trigger, watched: ['zone'] },
      actions: [{ kind: 'write', target: 'record', lines: [line('zone', 'target.zone & "x"')] }],
    };
    const { report } = await runWith(bookingEvent(stored, 'updated', ['zone']), compiled(grow), [stored]);
    expect(report.writes.map(({ change }) => fieldsOf(change))).toEqual([
      [{ path: 'zone', before: 'x', after: 'xx' }],
    ]);
    expect(report.problems).toEqual([]);
  });
});

describe('a rule with mistakes', () => {
  test('every mistake is reported with its place', () => {
    const broken: Rule = {
      ...toBookings,
      guard: 'phone',
      finds: [
        {
          ...toBookings.finds[0],
          match: [{ field: 'ownr', is: 'equal', formula: 'UPPER(' }],
        } as Rule['finds'][number],
      ],
      actions: [{ kind: 'write', target: 'booking', lines: [line('id', '"x"'), line('nowhere', 'phne')] }],
    };
    const result = compileRule(broken, { catalog, tables: new Map() });
    expect(result.ok ? [] : result.problems.map(({ at }) => at)).toEqual([
      'guard',
      'finds/0/match/0/field',
      'finds/0/match/0/formula',
      'actions/0/lines/0/field',
      'actions/0/lines/1/field',
      'actions/0/lines/1/formula',
    ]);
  });
});
