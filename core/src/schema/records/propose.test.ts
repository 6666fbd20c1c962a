import type { Json } from '../../model/json';
import { proposeFromRecords, type GivenRecords } from './propose';

const proposed = (...given: GivenRecords[]) => {
  const result = proposeFromRecords(given);
  if (!result.ok) throw new Error(result.because);
  return result.proposal;
};
const of = (body: Json, name = 'piers') => proposed({ body, name }).types[0];
const many = (make: (at: number) => Record<string, Json>, count = 30) =>
  Array.from({ length: count }, (_none, at) => make(at));

test('types, options, dates and ids are learnt, with what speaks for each', () => {
  const learnt = of(
    many((at) => ({
      pierId: `P-${at}`,
      title: `Pier ${at}`,
      state: ['open', 'shut', 'under repair'][at % 3] ?? '',
      depth: at + 0.5,
      berths: at,
      lit: at % 2 === 0,
      opened: `2020-01-${String((at % 28) + 1).padStart(2, '0')}`,
      seen: `2026-03-09T10:${String(at).padStart(2, '0')}:00Z`,
      checked: `0${(at % 9) + 1}/03/2026`,
      note: null,
      place: { town: 'Holm', x: at },
      lines: [{ no: 1, kg: at }],
    })),
  );
  expect(learnt?.type).toMatchObject({
    name: 'pier',
    plural: 'Piers',
    idField: 'pierId',
    nameField: 'title',
  });
  expect(learnt?.type.fields.map(({ name, type }) => `${name} ${type}`)).toEqual([
    'pierId text',
    'title text',
    'state choice',
    'depth decimal',
    'berths integer',
    'lit boolean',
    'opened date',
    'seen datetime',
    'checked text',
    'note text',
    'place object',
    'lines list',
  ]);
  const because = (about: string) =>
    learnt?.reasons.filter((each) => each.about === about).map((each) => each.because);
  expect(because('state')).toEqual(['only 3 different in 30 values, never blank']);
  expect(because('checked')).toEqual(['30 values, at most 10 characters, dates with slashes, never blank']);
  expect(because('note')).toEqual(['it was always blank, 30 times blank']);
  expect(because('depth')).toEqual(['30 values, numbers from 0.5 to 29.5, never blank']);
  expect(because('lines.kg')).toEqual(['30 values, whole numbers from 0 to 29, never blank']);
  expect(because('pierId')).toContain('it is the id: another value in each of 30 records');
});

test('a few records are only guessed from, and give no options', () => {
  const learnt = of([
    { id: 1, state: 'open' },
    { id: 2, state: 'open' },
  ]);
  expect(learnt?.type.fields.find(({ name }) => name === 'state')?.type).toBe('text');
  expect(learnt?.reasons.every(({ sure }) => sure !== 'likely')).toBe(true);
});

test('references are found by values that are ids of another type', () => {
  const companies = many((at) => ({ id: `C-${at}`, name: `Company ${at}` }), 10);
  const people = many((at) => ({ id: `X-${at}`, company: `C-${at % 10}`, rank: at % 4 }));
  const { types } = proposed({ body: { companies, people }, name: 'all' });
  const company = types[1]?.type.fields.find(({ name }) => name === 'company');
  expect(types.map(({ type }) => type.name)).toEqual(['company', 'person']);
  expect(company).toMatchObject({ type: 'reference', refersTo: ['company'] });
  expect(types[1]?.reasons).toContainEqual({
    about: 'company',
    because: '10 of 10 different values are ids of company',
    sure: 'likely',
  });
});

test('small numbers are ids of everything, and references only where they are called so', () => {
  const boxes = many((at) => ({ id: at + 1, ship_id: (at % 5) + 1, weight: (at % 7) + 1 }));
  const ships = many((at) => ({ id: at + 1, name: `Ship ${at}` }), 10);
  const fields = proposed({ body: boxes, name: 'boxes' }, { body: ships, name: 'ships' }).types[0]?.type
    .fields;
  expect(fields?.map(({ name, type }) => `${name} ${type}`)).toEqual([
    'id integer',
    'ship_id reference',
    'weight integer',
  ]);
});

test.each<[string, Json, Record<string, string>, object]>([
  [
    'at the root, with a Link',
    [{ id: 1 }, { id: 2 }],
    { link: '</piers?page=2>; rel="next"' },
    { items: '', paging: { kind: 'link' } },
  ],
  [
    'with a next address',
    { data: [{ id: 1 }], links: { next: '/piers?page=2' } },
    {},
    { items: '/data', paging: { kind: 'address', next: '/links/next' } },
  ],
  [
    'with a cursor',
    { items: [{ id: 1 }], page: { next_cursor: 'abc' }, total: 9 },
    {},
    { items: '/items', total: '/total', paging: { kind: 'cursor', next: '/page/next_cursor' } },
  ],
  [
    'in envelopes',
    { rows: [{ id: 'a', key: 'a', doc: { _id: 'a', _rev: '1', name: 'x' } }], total_rows: 1 },
    {},
    { items: '/rows', record: '/doc', total: '/total_rows' },
  ],
])('where the records stand is found: %s', (_what, body, headers, list) => {
  const { types } = proposed({ body, name: 'piers', path: '/piers', headers });
  expect(types[0]?.style?.list).toMatchObject(list);
  expect(types[0]?.type.name).toBe('pier');
});

test.each<[Json, string]>([
  [{ id: 1, name: 'one' }, 'There is no list of records in it: it is an object with id, name.'],
  [[], 'There is no list of records in it: its list is empty.'],
  [[1, 2], 'There is no list of records in it: its list holds single values.'],
  ['x', 'There is no list of records in it: it is a single value.'],
  [
    [{ a: 1 }, { a: 1 }],
    'piers: no field has another value in each of the 2 records, so that none can be the id.',
  ],
])('%j is told in a sentence', (body, because) => {
  expect(proposeFromRecords([{ body, name: 'piers' }])).toEqual({ ok: false, because });
});
