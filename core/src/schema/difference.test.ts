import type { Field, RecordType } from '../model/system';
import { refreshed, schemaChanges } from './difference';

const type = (name: string, ...fields: Field[]): RecordType => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'id',
  fields,
});
const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const options = (...values: string[]) => values.map((value) => ({ value, label: value }));

test('what came, went and changed is told, field by field', () => {
  const before = [
    type('pier', text('id'), text('name', { maxLength: 40 }), text('gone')),
    type('old', text('id')),
  ];
  const after = [
    type('pier', text('id'), text('name', { maxLength: 20, required: true }), {
      name: 'state',
      label: 'State',
      type: 'choice',
      options: options('a'),
    }),
    type('new', text('id')),
  ];
  expect(schemaChanges(before, after)).toEqual([
    { what: 'went', type: 'old', field: undefined, how: 'old' },
    { what: 'went', type: 'pier', field: 'gone', how: 'gone' },
    { what: 'changed', type: 'pier', field: 'name', how: 'longest 40 → 20; required no → yes' },
    { what: 'came', type: 'pier', field: 'state', how: 'State, choice' },
    { what: 'came', type: 'new', field: undefined, how: 'new' },
  ]);
  expect(schemaChanges(before, before)).toEqual([]);
});

test('options and references are compared as lists', () => {
  const choice = (...values: string[]): Field => ({
    name: 'state',
    label: 'State',
    type: 'choice',
    options: options(...values),
  });
  const refer = (...refersTo: string[]): Field => ({
    name: 'ship',
    label: 'Ship',
    type: 'reference',
    refersTo,
  });
  expect(
    schemaChanges(
      [type('pier', choice('a', 'b'), refer('ship'))],
      [type('pier', choice('b', 'c'), refer('boat'))],
    ).map(({ how }) => how),
  ).toEqual(['options that went: a; options that came: c', 'points to ship → boat']);
});

test('what is learnt anew keeps what people added', () => {
  const known = [
    type(
      'pier',
      text('id', { label: 'Number' }),
      text('phone', { label: 'Telephone', sensitivity: 'personal', maxLength: 40 }),
      { name: 'ship', label: 'Ship', type: 'reference', refersTo: ['ship'] },
      text('rev', { readOnly: true, keptBySystem: true }),
      text('gone'),
    ),
  ];
  const learnt = [
    type(
      'pier',
      text('id'),
      text('phone', { maxLength: 20 }),
      text('ship', { required: true }),
      text('rev'),
      text('came'),
    ),
  ];
  expect(refreshed(known, learnt)[0]?.fields).toEqual([
    { name: 'id', label: 'Number', type: 'text' },
    { name: 'phone', label: 'Telephone', type: 'text', sensitivity: 'personal', maxLength: 20 },
    { name: 'ship', label: 'Ship', type: 'reference', refersTo: ['ship'], required: true },
    { name: 'rev', label: 'rev', type: 'text', readOnly: true, keptBySystem: true },
    { name: 'came', label: 'came', type: 'text' },
  ]);
  expect(schemaChanges(known, refreshed(known, known))).toEqual([]);
});

test('labels of options stay, and so does what names an element of a list', () => {
  const state = (labels: Record<string, string>): Field => ({
    name: 'state',
    label: 'State',
    type: 'choice',
    options: Object.entries(labels).map(([value, label]) => ({ value, label })),
  });
  const lines = (more: Partial<Field>): Field => ({
    name: 'lines',
    label: 'Lines',
    type: 'list',
    fields: [text('no')],
    ...more,
  });
  const known = [
    type('pier', text('id', { readOnly: true }), state({ a: 'Open', b: 'Shut' }), lines({ keyField: 'no' })),
  ];
  const learnt = [type('pier', text('id'), state({ a: 'a', c: 'c' }), lines({}))];
  expect(refreshed(known, learnt)[0]?.fields).toEqual([
    text('id', { readOnly: true }),
    state({ a: 'Open', c: 'c' }),
    lines({ keyField: 'no' }),
  ]);
});
