import type { Field, MappingLine, RecordType, Rule, Sample, System } from '@vast-knot/core';
import { surroundingsOf, type Known } from './known';

/** Two small systems, a table and a rule between them, for tests of what is computed off the page. */
const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const type = (name: string, fields: readonly Field[]): RecordType => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'name',
  fields: [text('id', { readOnly: true }), ...fields],
});
const book: System = {
  key: 'book',
  tag: 'BK',
  name: 'Book',
  hue: 10,
  recordTypes: [type('company', [text('name', { required: true }), text('town'), text('chief')])],
};
const desk: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 100,
  recordTypes: [
    type('party', [
      text('number'),
      text('name', { maxLength: 12 }),
      text('zone'),
      { name: 'chief', label: 'chief', type: 'reference', refersTo: ['person'] },
    ]),
    type('person', [text('name')]),
  ],
};
export const known: Known = {
  systems: [book, desk],
  tables: [
    {
      name: 'Zones',
      columns: [
        { name: 'town', label: 'Town', type: 'text', key: true },
        { name: 'zone', label: 'Zone', type: 'text', key: false },
      ],
      rows: [
        ['Northport', 'N1'],
        ['Murrow', 'S1'],
      ],
      matching: 'exact',
      onMiss: 'stop',
    },
  ],
};
export const surroundings = surroundingsOf(known);

export function ruleWith(lines: readonly MappingLine[], change: Partial<Rule> = {}): Rule {
  return {
    id: 'r',
    version: 0,
    name: 'Company to party',
    note: '',
    trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['name', 'town'] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 'desk',
        recordType: 'party',
        match: [{ field: 'number', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [{ kind: 'write', target: 'party', lines }],
    ...change,
  };
}

export const line = (field: string, formula: string, more: Partial<MappingLine> = {}): MappingLine => ({
  field,
  formula,
  policy: 'always',
  ...more,
});

const ref = (system: string, recordType: string, id: string) => ({ system, recordType, id });
export const company = (id: string, name: string, town: string) => ({
  ref: ref('book', 'company', id),
  record: { id, name, town, chief: 'Runa' },
});
export const party = (id: string, number: string, held: Record<string, string | null>) => ({
  ref: ref('desk', 'party', id),
  record: { id, number, name: null, zone: null, chief: null, ...held },
});
export const person = (id: string, name: string) => ({
  ref: ref('desk', 'person', id),
  record: { id, name },
});

export const sample: Sample = {
  id: 's',
  name: 'Fish moves',
  note: '',
  event: {
    id: 'e',
    source: '/book',
    kind: 'updated',
    ref: ref('book', 'company', 'C1'),
    time: '2026-03-09T09:00:00Z',
    record: company('C1', 'Fish', 'Murrow').record,
    before: company('C1', 'Fish', 'Northport').record,
    changed: ['town'],
  },
  records: [company('C1', 'Fish', 'Murrow'), party('P1', 'C1', { name: 'Fish', zone: 'N1' })],
};
