import type { CatalogueColumn, CatalogueTable } from './catalogue';
import { proposeFromCatalogue } from './propose';

const column = (name: string, more: Partial<CatalogueColumn> = {}): CatalogueColumn => ({
  name,
  written: 'text',
  type: 'text',
  length: null,
  precision: null,
  scale: null,
  notNull: false,
  hasDefault: false,
  computed: false,
  mayWrite: true,
  values: null,
  comment: '',
  ...more,
});
const table = (name: string, more: Partial<CatalogueTable> = {}): CatalogueTable => ({
  schema: 'public',
  table: name,
  kind: 'table',
  comment: '',
  columns: [column('id'), column('name')],
  key: ['id'],
  unique: [],
  references: [],
  checks: [],
  mayCreate: true,
  mayChange: true,
  mayRemove: true,
  rows: 0,
  ...more,
});
const learnt = (...tables: CatalogueTable[]) => proposeFromCatalogue(tables);
const leftOut = (more: Partial<CatalogueTable>) => learnt(table('pier', more)).leftOut;

test('no two record types have one name, whatever their tables are called', () => {
  const { types } = learnt(
    table('piers'),
    table('pier'),
    table('Pier'),
    table('piers', { schema: 'old' }),
    table('pier', { schema: 'old' }),
  );
  expect(types.map(({ type }) => type.name)).toEqual([
    'pier',
    'public pier',
    'Pier',
    'old pier',
    'old pier 2',
  ]);
});

test('what has no id of one column is left out, with why', () => {
  expect(leftOut({ key: [] })).toEqual(['public.pier: it has no key.']);
  expect(leftOut({ key: ['a', 'b'] })).toEqual([
    'public.pier: its key is of several columns (a, b), and a record has one id.',
  ]);
  expect(leftOut({ kind: 'view', key: [], columns: [column('name')] })).toEqual([
    'public.pier: nothing says by which column its rows are known.',
  ]);
});

test('without a key a unique column that is never blank is the id; one that may be blank is not', () => {
  const unique = { key: [], unique: [['name']] };
  const never = learnt(table('pier', { ...unique, columns: [column('name', { notNull: true })] }));
  expect(never.types[0]?.type.idField).toBe('name');
  expect(never.types[0]?.reasons[0]).toEqual({
    about: 'name',
    because: 'it is unique, and never blank',
    sure: 'said',
  });
  expect(leftOut(unique)).toEqual(['public.pier: it has no key.']);
});

test('columns that formulas cannot name, or that hold bytes, are left out', () => {
  expect(
    leftOut({
      columns: [column('id'), column('__proto__'), column('a.b'), column('photo', { type: 'bytea' })],
    }),
  ).toEqual([
    'public.pier: the column __proto__ is left out: formulas cannot name it.',
    'public.pier: the column a.b is left out: formulas cannot name it.',
    'public.pier: the column photo is left out: it holds bytes, and no text.',
  ]);
});

test('a reference to a table that is left out stays what its column is', () => {
  const references = [{ columns: ['quay'], schema: 'public', table: 'quay', toColumns: ['id'] }];
  const pier = table('pier', { columns: [column('id'), column('quay')], references });
  const field = (...others: CatalogueTable[]) =>
    learnt(pier, ...others).types[0]?.type.fields.find(({ name }) => name === 'quay');
  expect(field(table('quay'))).toMatchObject({ type: 'reference', refersTo: ['quay'] });
  expect(field(table('quay', { key: [] }))).toMatchObject({ type: 'text' });
  // It points to another column than the id.
  expect(field(table('quay', { key: ['name'] }))).toMatchObject({ type: 'text' });
});

test('a comment that is short is the label; a large table is compared once a day', () => {
  const [large] = learnt(table('pier', { comment: 'Landing stage', rows: 3_000_000 })).types;
  expect(large?.type).toMatchObject({ label: 'Landing stage', plural: 'Landing stages' });
  expect(large?.style.listening).toEqual({ compared: { everySeconds: 86_400 } });
  expect(large?.reasons.at(-1)?.because).toBe('it has about 3,000,000 rows');
});
