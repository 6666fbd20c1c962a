import type { Field, RecordType } from '../model/system';
import { samplesFromCsv, wholeDraft } from './samplesFromCsv';

const field = (name: string, type: Field['type'], more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type,
  ...more,
});
const company: RecordType = {
  name: 'company',
  label: 'Company',
  plural: 'Companies',
  idField: 'id',
  nameField: 'name',
  fields: [
    field('id', 'text'),
    field('name', 'text', { label: 'Company name' }),
    field('phone', 'text'),
    field('size', 'integer'),
    field('rate', 'decimal'),
    field('active', 'boolean'),
    field('status', 'choice', { options: [{ value: 'open', label: 'Open for business' }] }),
    field('labels', 'multichoice', { options: [{ value: 'f', label: 'Frozen' }] }),
    field('address', 'object', { fields: [field('town', 'text')] }),
    field('lines', 'list', { fields: [field('no', 'integer')] }),
  ],
};
const read = (text: string) => {
  let made = 0;
  return samplesFromCsv(text, {
    system: 'book',
    type: company,
    time: '2026-03-09T09:00:00Z',
    newId: () => `e${++made}`,
  });
};
const events = (text: string) => {
  const result = read(text);
  if (!result.ok) throw new Error(result.problems.join(' '));
  return result.drafts.map(({ event }) => event);
};

test('each line is a record just created, its values as the fields have them', () => {
  const text =
    'id,Company name,size,rate,active,status,labels,address.town\r\nC1,"Tarn, Quay",3,0.10,yes,Open for business,Frozen; x,Murrow\r\nC2,,,,,,,\r\n';
  expect(events(text)).toEqual([
    {
      id: 'e1',
      source: '/book',
      kind: 'created',
      ref: { system: 'book', recordType: 'company', id: 'C1' },
      time: '2026-03-09T09:00:00Z',
      record: {
        id: 'C1',
        name: 'Tarn, Quay',
        size: 3,
        rate: 0.1,
        active: true,
        status: 'open',
        labels: ['f', 'x'],
        address: { town: 'Murrow' },
      },
      changed: ['id', 'name', 'size', 'rate', 'active', 'status', 'labels', 'address.town'],
    },
    expect.objectContaining({
      id: 'e2',
      record: {
        id: 'C2',
        name: null,
        size: null,
        rate: null,
        active: null,
        status: null,
        labels: null,
        address: { town: null },
      },
    }),
  ]);
});

test('columns of what was before make updates, and what is the same has not changed', () => {
  const [phone, town] = events(
    'id;name;phone;before.phone;address.town;before.address.town\nC1;Tarn;2;1;Murrow;Murrow\nC2;Skua;5;5;Murrow;\n',
  );
  expect(phone).toMatchObject({
    kind: 'updated',
    before: { id: 'C1', name: 'Tarn', phone: '1', address: { town: 'Murrow' } },
    changed: ['phone'],
  });
  expect(town).toMatchObject({ before: { address: { town: null } }, changed: ['address.town'] });
});

test.each([
  ['id,fax\nC1,2', 'Column 2: Company has no field “fax”.'],
  ['name\nTarn', 'No column is headed “id”, so the records have no id.'],
  ['id,name\n,Tarn', 'Line 2: the record has no id.'],
  ['id,size\nC1,3.5', 'Line 2, “size”: “3.5” is no whole number.'],
  ['id,rate\nC1,"1,5"', 'Line 2, “rate”: “1,5” is no number.'],
  ['id,active\nC1,perhaps', 'Line 2, “active”: “perhaps” is neither yes nor no.'],
  ['id,lines\nC1,two of them', 'Line 2, “lines”: “two of them” is not a list in JSON.'],
  ['id,lines\nC1,{}', 'Line 2, “lines”: “{}” is not a list in JSON.'],
  ['id,name\nC1,Tarn,3', 'Line 2 has 3 values for 2 columns.'],
  ['id,name\n', 'There is no line under the heads.'],
])('%j is refused: %s', (text, problem) => {
  const result = read(text);
  expect(result.ok ? [] : result.problems).toContain(problem);
});

test('a number with more digits than JSON keeps stays as it is written', () => {
  expect(events('id,rate\nC1,0.1234567890123456789')[0]?.record['rate']).toBe('0.1234567890123456789');
});

test('a list stands in its cell as JSON, with the digits of its numbers', () => {
  const [event] = events('id,lines\nC1,"[{""no"": 12345678901234567890}, {""no"": 2}]"');
  expect(event?.record['lines']).toEqual([{ no: { $number: '12345678901234567890' } }, { no: 2 }]);
});

test('what no column gives of an update is as the system has it, before and after, and is no change', () => {
  const result = read('id,phone,before.phone,address.town\nC1,2,1,\n');
  if (!result.ok) throw new Error(result.problems.join(' '));
  const [draft] = result.drafts;
  if (!draft) throw new Error('there is a draft');
  const held = { id: 'C1', name: 'Tarn', phone: '9', address: { town: 'Murrow', street: 'Quay' }, size: 3 };
  const whole = wholeDraft(draft, held);
  expect(whole.event.record).toEqual({
    id: 'C1',
    name: 'Tarn',
    phone: '2',
    // Blank as the file has it; the street is none of its columns.
    address: { town: null, street: 'Quay' },
    size: 3,
  });
  expect(whole.event.before).toEqual({ ...whole.event.record, phone: '1' });
  expect(whole.event.changed).toEqual(['phone']);
  expect('partial' in whole).toBe(false);
  // A record that the system does not have stays as it is given, and so does one that was just created.
  expect(wholeDraft(draft, undefined).event).toEqual(draft.event);
  const other = read('id,phone\nC1,2\n');
  const created = other.ok ? other.drafts[0] : undefined;
  if (!created) throw new Error('there is a draft');
  expect(wholeDraft(created, held).event).toEqual(created.event);
});
