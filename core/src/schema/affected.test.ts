import type { Sample } from '../model/sample';
import type { Field, RecordType } from '../model/system';
import { affectedBy } from './affected';

const type = (...fields: Field[]): RecordType => ({
  name: 'company',
  label: 'Company',
  plural: 'Companies',
  idField: 'id',
  nameField: 'id',
  fields: [{ name: 'id', label: 'Id', type: 'text' }, ...fields],
});
const terms = (...values: string[]): Field => ({
  name: 'terms',
  label: 'Terms',
  type: 'choice',
  options: values.map((value) => ({ value, label: value })),
});
const phone: Field = { name: 'phone', label: 'Phone', type: 'text' };
const sample = (name: string, record: Sample['event']['record'], expected?: Sample['expected']): Sample => ({
  id: name,
  name,
  note: '',
  event: {
    id: name,
    source: '/book',
    kind: 'updated',
    ref: { system: 'book', recordType: 'company', id: '1' },
    time: '2026-03-09T10:00:00Z',
    record,
    changed: [],
  },
  records: [],
  ...(expected && { expected }),
});
const table = {
  name: 'Terms to codes',
  columns: [
    { name: 'terms', label: 'Terms', type: 'text' as const, key: true },
    { name: 'code', label: 'Code', type: 'text' as const, key: false },
  ],
  rows: [['net_30', 'N30']],
  matching: 'exact' as const,
  onMiss: 'stop' as const,
};
const rule = { actions: [{ lines: [{ field: 'code', formula: 'TABLE("Terms to codes", terms, "code")' }] }] };
const names = (
  before: RecordType,
  after: RecordType | undefined,
  kept: Partial<Parameters<typeof affectedBy>[2]>,
) => {
  const { samples, tables } = affectedBy('book', [[before], after ? [after] : []], {
    samples: [],
    tables: [table],
    rules: [rule],
    ...kept,
  });
  return [samples.map(({ name }) => name), tables.map(({ because }) => because)];
};

test('samples that hold a field that went, or is of another type, are named; others are not', () => {
  const samples = [
    sample('holds it', { id: '1', phone: '5' }),
    sample('blank', { id: '1', phone: null }),
    sample(
      'expects it',
      { id: '1' },
      {
        records: [{ key: 'book/company/1', deed: 'write', fields: { phone: { is: 'any' } } }],
        messages: [],
        problems: [],
      },
    ),
    sample(
      'elsewhere',
      { id: '1' },
      {
        records: [{ key: 'desk/party/1', deed: 'write', fields: { phone: { is: 'any' } } }],
        messages: [],
        problems: [],
      },
    ),
  ];
  expect(names(type(phone), type(), { samples })[0]).toEqual(['holds it', 'expects it']);
  expect(names(type(phone), type({ ...phone, type: 'integer' }), { samples })[0]).toEqual([
    'holds it',
    'expects it',
  ]);
  expect(names(type(phone), undefined, { samples })[0]).toContain('holds it');
  expect(names(type(phone), type({ ...phone, maxLength: 3 }), { samples })[0]).toEqual([]);
});

test('an option that went concerns samples and tables that hold it, where a rule reads the table for that field', () => {
  const samples = [
    sample('net 30', { id: '1', terms: 'net_30' }),
    sample('net 60', { id: '1', terms: 'net_60' }),
  ];
  const [before, after] = [type(terms('net_30', 'net_60')), type(terms('net_60'))];
  expect(names(before, after, { samples })).toEqual([
    ['net 30'],
    ['It holds “net_30”, which terms cannot hold any more.'],
  ]);
  expect(names(before, after, { rules: [] })[1]).toEqual([]);
  expect(names(before, before, { samples })).toEqual([[], []]);
});
