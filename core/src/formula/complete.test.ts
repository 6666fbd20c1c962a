import { TableIndex } from '../table/tableIndex';
import { completionsAt, signatureAt } from './complete';
import type { Scope } from './scope';

const ports = new TableIndex({
  name: 'Ports',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  rows: [],
  matching: 'exact',
  onMiss: 'blank',
});
const party = { name: 'party', label: 'Party', plural: 'Parties', idField: 'id', nameField: 'name' };
const scope: Scope = {
  record: [
    { name: 'name', label: 'Name', type: 'text' },
    { name: 'Home Port', label: 'Home port', type: 'text' },
    {
      name: 'status',
      label: 'Status',
      type: 'choice',
      options: [
        { value: 'open', label: 'Open' },
        { value: 'shut', label: 'Shut' },
      ],
    },
    {
      name: 'address',
      label: 'Address',
      type: 'object',
      fields: [{ name: 'town', label: 'Town', type: 'text' }],
    },
    { name: 'shipper', label: 'Shipper', type: 'reference', refersTo: ['party'] },
  ],
  target: [{ name: 'note', label: 'Note', type: 'text' }],
  found: new Map([['booking', [{ name: 'title', label: 'Title', type: 'text' as const }]]]),
  tables: new Map([['Ports', ports]]),
  referred: (field) =>
    field.name === 'shipper'
      ? [{ system: 's', type: { ...party, fields: [{ name: 'region', label: 'Region', type: 'text' }] } }]
      : [],
};
/** `|` is the cursor. */
const at = (marked: string) => {
  const position = marked.indexOf('|');
  return completionsAt(marked.replace('|', ''), position, scope);
};
const labels = (marked: string) => at(marked).options.map(({ label }) => label);

test('at the start there are fields, found records, the named records and functions', () => {
  expect(labels('|')).toEqual(
    expect.arrayContaining(['name', 'address.town', 'booking', 'before', 'target', 'UPPER']),
  );
  expect(at('UPPER(na|').from).toBe(6);
  expect(at('|').options.find(({ label }) => label === 'Home Port')?.insert).toBe("'Home Port'");
});

test.each([
  ['address.|', ['town']],
  ['UPPER(address.to|', ['town']],
  ['before.|', ['name', 'Home Port', 'status', 'address', 'shipper']],
  ['target.|', ['note']],
  ['booking.|', ['title']],
  ['shipper.|', ['region']],
  ['event.|', ['time', 'kind', 'id', 'source']],
  ['nothing.|', []],
])('behind the dot of %s come its fields', (marked, expected) => expect(labels(marked)).toEqual(expected));

test.each([
  ['TABLE("|', ['Ports']],
  ['TABLE("Ports", name, "|', ['port', 'zone']],
  ['INTABLE("P|', ['Ports']],
  ['status = "|', ['open', 'shut']],
  ['AND(status <> "o|', ['open', 'shut']],
  ['status = "open" & "|', []],
  ['UPPER("|', []],
])('inside the text of %s come %p', (marked, expected) => expect(labels(marked)).toEqual(expected));

test('item is offered inside EACH only', () => {
  expect(labels('EACH(name, it|')).toContain('item');
  expect(labels('UPPER(it|')).not.toContain('item');
});

test.each([
  ['LEFT(|', 'LEFT', 0],
  ['LEFT(name, |', 'LEFT', 1],
  ['UPPER(LEFT(TRIM(name), 4|', 'LEFT', 1],
  ['UPPER(LEFT(TRIM(name), 4)|', 'UPPER', 0],
  ['TEXTJOIN(", ", TRUE, name, name, name|', 'TEXTJOIN', 3],
  ['LEFT({1, 2|', 'LEFT', 0],
  ['TABLE("a(b", |', 'TABLE', 1],
])('the cursor in %s is at %s, argument %i', (marked, name, argument) => {
  expect(signatureAt(marked.replace('|', ''), marked.indexOf('|'))).toMatchObject({ name, at: argument });
});

test('outside of every bracket there is no signature', () => {
  expect(signatureAt('LEFT(name, 4) & ', 16)).toBeUndefined();
  expect(signatureAt('name', 2)).toBeUndefined();
});

test('a formula that gives a choice offers its options, as the result and within quotes', () => {
  const gives = {
    name: 'handling',
    label: 'Handling',
    type: 'choice' as const,
    options: [
      { value: 'FR', label: 'Fragile' },
      { value: 'dry', label: 'dry' },
    ],
  };
  const first = completionsAt('', 0, scope, gives).options.slice(0, 2);
  expect(first).toEqual([
    { insert: '"FR"', label: '"FR"', kind: 'result', detail: 'Fragile', meaning: 'An option of Handling' },
    { insert: '"dry"', label: '"dry"', kind: 'result', detail: '', meaning: 'An option of Handling' },
  ]);
  const quoted = (marked: string) => {
    const position = marked.indexOf('|');
    return completionsAt(marked.replace('|', ''), position, scope, gives).options.map(({ label }) => label);
  };
  expect(quoted('IF(name = "x", "|')).toEqual(['FR', 'dry']);
  // What is compared is another field's; the name of a table is neither.
  expect(quoted('IF(status = "|')).toEqual(['open', 'shut']);
  expect(quoted('TABLE("|')).toEqual(['Ports']);
});

test('a field says the path that it completes to, also behind a dot', () => {
  const pathOf = (marked: string, label: string) =>
    at(marked).options.find((option) => option.label === label)?.path;
  expect(pathOf('|', 'address.town')).toEqual(['address', 'town']);
  expect(pathOf('booking.|', 'title')).toEqual(['booking', 'title']);
  expect(pathOf('UPPER(shipper.re|', 'region')).toEqual(['shipper', 'region']);
  expect(at('|').options.find(({ kind }) => kind === 'function')?.path).toBeUndefined();
});
