import type { System } from '../model/system';
import { completeSample } from './completeSample';
import { sampleNotes } from './sampleNotes';

const systems: readonly System[] = [
  {
    key: 'book',
    tag: 'BK',
    name: 'Book',
    hue: 1,
    recordTypes: [
      {
        name: 'company',
        label: 'Company',
        plural: 'Companies',
        idField: 'id',
        nameField: 'name',
        fields: [
          { name: 'id', label: 'Id', type: 'text' },
          { name: 'phone', label: 'Phone', type: 'text' },
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
        ],
      },
    ],
  },
  {
    key: 'desk',
    tag: 'DK',
    name: 'Desk',
    hue: 2,
    recordTypes: [{ name: 'job', label: 'Job', plural: 'Jobs', idField: 'id', nameField: 'id', fields: [] }],
  },
];

/** The options at the bar in a text. */
const offered = (text: string) => {
  const at = text.indexOf('|');
  return completeSample(text.replace('|', ''), at, systems)?.options.map((option) => option.text) ?? [];
};
const ofCompany = '{"ref": {"system": "book", "recordType": "company", "id": "C1"}, ';

test.each([
  [
    'keys of an event',
    '{"event": {"|',
    [
      'id',
      'source',
      'kind',
      'ref',
      'time',
      'record',
      'before',
      'changed',
      'input',
      'rule',
      'existing',
      'edited',
      'reviewed',
      'folded',
      'readAt',
    ],
  ],
  ['keys of a reference', '{"event": {"ref": {|', ['system', 'recordType', 'id']],
  ['keys of a record that is met', '{"records": [{"', ['ref', 'record', 'version']],
  ['systems', '{"ref": {"system": "|', ['book', 'desk']],
  ['record types of the system that is named', '{"ref": {"system": "desk", "recordType": "|', ['job']],
  [
    'kinds of events',
    '{"kind": "|',
    ['created', 'updated', 'deleted', 'requested', 'scheduled', 'file row', 'form answer'],
  ],
  ['fields of the record type', `${ofCompany}"record": {"ph|`, ['id', 'phone', 'status', 'address']],
  ['fields before', `${ofCompany}"before": {|`, ['id', 'phone', 'status', 'address']],
  ['nested fields', `${ofCompany}"record": {"address": {"|`, ['town']],
  ['options of a field', `${ofCompany}"record": {"phone": "1", "status": "|`, ['open', 'shut']],
  ['no values of a text', `${ofCompany}"record": {"phone": "|`, []],
  ['paths that changed', `${ofCompany}"changed": ["|`, ['id', 'phone', 'status', 'address.town']],
  ['nothing outside of an object', '|', []],
])('%s', (_what, text, options) => {
  expect(offered(text.includes('|') ? text : `${text}|`)).toEqual(options);
});

test('a brace in a text, and an escaped quote, do not lead astray', () => {
  expect(offered('{"note": "a } { \\" {", "event": {"kind": "|')).toContain('updated');
});

test('the word at the cursor is what is replaced', () => {
  const text = `${ofCompany}"record": {"pho`;
  expect(completeSample(text, text.length, systems)).toMatchObject({ from: text.length - 3, quoted: true });
  const bare = `${ofCompany}"record": {pho`;
  expect(completeSample(bare, bare.length, systems)).toMatchObject({ from: bare.length - 3, quoted: false });
});

test('what does not fit the systems is told with what is perhaps meant', () => {
  const event = {
    id: 'e1',
    source: '/book',
    kind: 'created' as const,
    ref: { system: 'book', recordType: 'company', id: 'C1' },
    time: '2026-03-09T09:00:00Z',
    record: { id: 'C1', phon: '1', address: { town: 'Murrow', twon: 'x' } },
    changed: [],
  };
  const job = { ref: { system: 'dsk', recordType: 'job', id: 'J1' }, record: {} };
  const note = { ref: { system: 'desk', recordType: 'jobs', id: 'J1' }, record: {} };
  expect(sampleNotes([{ name: 's', note: '', event, records: [job, note] }], systems)).toEqual([
    'book/company/C1: Company has no field “phon”; perhaps “phone” is meant.',
    'book/company/C1: Company has no field “address.twon”; perhaps “address.town” is meant.',
    'There is no system “dsk”; perhaps “desk” is meant.',
    'Desk has no record type “jobs”; perhaps “job” is meant.',
  ]);
});
