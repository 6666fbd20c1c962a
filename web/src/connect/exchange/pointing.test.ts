import type { Json, RecordType, TypeStyle } from '@vast-knot/core';
import { marksIn, pointingsAt } from './pointing';

const style: TypeStyle = {
  path: '/piers',
  list: { path: '{path}', items: '/rows', paging: { kind: 'none' }, filter: { kind: 'none' } },
  one: { kind: 'list' },
  version: { kind: 'none' },
};
const type: RecordType = {
  name: 'pier',
  label: 'Pier',
  plural: 'Piers',
  idField: 'id',
  nameField: 'id',
  fields: [],
};
const body: Json = {
  rows: [{ doc: { key: 'P-1', rev: 3, place: { town: 'Holm' } } }],
  total: 9,
  links: { next: '/piers?page=2' },
  page: { after: 'x7' },
};
const labels = (pointer: string, in_ = style) =>
  pointingsAt(in_, type, body, pointer).map(({ label }) => label);
const press = (pointer: string, label: string, in_ = style) => {
  const found = pointingsAt(in_, type, body, pointer).find((each) => each.label === label);
  return { style: found?.style?.(in_) ?? in_, type: found?.type?.(type) ?? type };
};

test('a list is the records, and an object in them an envelope', () => {
  expect(labels('/rows')).toEqual(['These are the records']);
  expect(press('/rows/0/doc', 'Each record stands in this').style.list.record).toBe('/doc');
});

test('what stands beside the records tells of pages', () => {
  expect(press('/total', 'So many there are in all').style.list.total).toBe('/total');
  expect(press('/links/next', 'This is the address of the next page').style.list.paging).toEqual({
    kind: 'address',
    next: '/links/next',
  });
  expect(press('/page/after', 'The next page is asked for with this').style.list.paging).toEqual({
    kind: 'cursor',
    next: '/page/after',
    parameter: 'cursor',
  });
});

test('a value in a record is its id, its name or its version', () => {
  const enveloped = { ...style, list: { ...style.list, record: '/doc' } };
  expect(labels('/rows/0/doc/key', enveloped)).toEqual([
    'This is its id',
    'This is its name',
    'This is its version',
    'This is when it was changed',
  ]);
  const pressed = press('/rows/0/doc/key', 'This is its id', enveloped);
  expect(pressed.type.idField).toBe('key');
  // A field that was not known comes with it.
  expect(pressed.type.fields.map(({ name }) => name)).toEqual(['key']);
  expect(press('/rows/0/doc/rev', 'This is its version', enveloped).style.version).toEqual({
    kind: 'field',
    field: 'rev',
  });
});

test('what is pointed at is marked', () => {
  const pointed: TypeStyle = {
    ...style,
    list: {
      ...style.list,
      record: '/doc',
      total: '/total',
      paging: { kind: 'address', next: '/links/next' },
    },
    version: { kind: 'field', field: 'rev' },
  };
  expect([...marksIn(pointed, { ...type, idField: 'key', nameField: 'key' }, body)]).toEqual([
    ['/rows', 'the records'],
    ['/total', 'how many in all'],
    ['/links/next', 'the next page'],
    ['/rows/0/doc', 'the record'],
    ['/rows/0/doc/key', 'its id'],
    ['/rows/0/doc/rev', 'its version'],
  ]);
});
