import type { RecordType } from '../model/system';
import { eventAsIf } from './asIf';

const company: RecordType = {
  name: 'company',
  label: 'Company',
  plural: 'Companies',
  idField: 'id',
  nameField: 'name',
  fields: [
    { name: 'id', label: 'Id', type: 'text' },
    { name: 'size', label: 'Size', type: 'integer' },
    { name: 'fax', label: 'Fax', type: 'text' },
    {
      name: 'address',
      label: 'Address',
      type: 'object',
      fields: [{ name: 'town', label: 'Town', type: 'text' }],
    },
  ],
};
const ref = { system: 'book', recordType: 'company', id: 'C1' };
const mark = { id: 'e1', time: '2026-03-09T09:00:00Z' };
const record = { id: 'C1', size: 5, address: { town: 'Murrow' } };

test('a record as if created: all that it holds has changed, and nothing was before', () => {
  expect(eventAsIf(ref, company, { kind: 'created', record }, mark)).toEqual({
    ...mark,
    source: '/book',
    kind: 'created',
    ref,
    record,
    changed: ['id', 'size', 'address.town'],
  });
});

test('as if updated: what differs by its type has changed, and a number written as text does not differ', () => {
  const before = { id: 'C1', size: '5', address: { town: 'Gullpoint' } };
  expect(eventAsIf(ref, company, { kind: 'updated', record, before }, mark)).toMatchObject({
    kind: 'updated',
    before,
    changed: ['address.town'],
  });
});

test('as if deleted: it was what it is, and nothing has changed', () => {
  expect(eventAsIf(ref, company, { kind: 'deleted', record }, mark)).toMatchObject({
    kind: 'deleted',
    record,
    before: record,
    changed: [],
  });
});
