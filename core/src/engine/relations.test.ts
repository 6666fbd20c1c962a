import { Catalog, type System } from '../model/system';
import type { Find } from '../model/find';
import type { Trigger } from '../model/trigger';
import { conditionsOf, relationIn, relationsOf } from './relations';

const desk: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 1,
  recordTypes: [
    {
      name: 'party',
      label: 'Party',
      plural: 'Parties',
      idField: 'id',
      nameField: 'name',
      fields: [
        { name: 'id', label: 'Id', type: 'text' },
        { name: 'name', label: 'Name', type: 'text' },
        { name: 'parent party', label: 'Belongs to', type: 'reference', refersTo: ['party'] },
      ],
    },
    {
      name: 'booking',
      label: 'Booking',
      plural: 'Bookings',
      idField: 'id',
      nameField: 'id',
      fields: [
        { name: 'id', label: 'Id', type: 'text' },
        { name: 'shipper', label: 'Shipper', type: 'reference', refersTo: ['party'] },
        {
          name: 'bill',
          label: 'Bill',
          type: 'object',
          fields: [{ name: 'payer', label: 'Payer', type: 'reference', refersTo: ['party'] }],
        },
      ],
    },
  ],
};
const catalog = new Catalog([desk]);
const starts = (recordType: string): Trigger => ({
  system: 'desk',
  recordType,
  kinds: ['updated'],
  watched: [],
});
const find = (recordType: string, field: string, formula: string): Find => ({
  alias: 'other',
  system: 'desk',
  recordType,
  match: [{ field, is: 'equal', formula }],
  none: 'stop',
  several: 'each',
});

test('a record type reaches what it points to, through objects too, and what points to it', () => {
  expect(
    relationsOf(starts('booking'), catalog).map(({ kind, type, path }) => [kind, type.name, path]),
  ).toEqual([
    ['points to', 'party', 'shipper'],
    ['points to', 'party', 'bill.payer'],
  ]);
  expect(
    relationsOf(starts('party'), catalog).map(({ kind, type, path }) => [kind, type.name, path]),
  ).toEqual([
    ['points to', 'party', 'parent party'],
    ['pointed from', 'party', 'parent party'],
    ['pointed from', 'booking', 'shipper'],
    ['pointed from', 'booking', 'bill.payer'],
  ]);
  expect(relationsOf(starts('nothing'), catalog)).toEqual([]);
});

test('a find that says just what a relation says is that relation, and no other is', () => {
  expect(relationIn(find('party', 'id', ' bill.payer '), starts('booking'), catalog)?.path).toBe(
    'bill.payer',
  );
  expect(relationIn(find('party', 'id', "'parent party'"), starts('party'), catalog)?.kind).toBe('points to');
  expect(relationIn(find('booking', 'shipper', 'id'), starts('party'), catalog)?.kind).toBe('pointed from');
  expect(relationIn(find('booking', 'shipper', 'name'), starts('party'), catalog)).toBeUndefined();
  const shouted = { ...find('booking', 'shipper', 'id') };
  const folded = {
    ...shouted,
    match: shouted.match.map((condition) => ({ ...condition, as: 'FOLD(item)' })),
  };
  expect(relationIn(folded, starts('party'), catalog)).toBeUndefined();
});

test('the conditions of a relation are read back as that relation', () => {
  const own = catalog.recordType('desk', 'party');
  for (const relation of relationsOf(starts('party'), catalog)) {
    const match = own ? conditionsOf(relation, own) : [];
    const back = relationIn({ ...find(relation.type.name, '', ''), match }, starts('party'), catalog);
    expect([back?.kind, back?.path]).toEqual([relation.kind, relation.path]);
  }
});
