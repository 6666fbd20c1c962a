import {
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import { gathered } from './gatheredStore';
import type { RecordStore } from './recordStore';

const stored = (id: string, record = {}): StoredRecord => ({
  ref: { system: 'desk', recordType: 'booking', id },
  record: { id, ...record },
  version: '1',
});
const edit = (id: string): GuardedChange => ({
  change: {
    kind: 'edit',
    ref: { system: 'desk', recordType: 'booking', id },
    edits: [{ path: 'phone', before: '1', after: '2' }],
  },
  key: `key-${id}`,
});

/** A store that notes what is asked of it. */
function noting(more: Partial<RecordStore> = {}) {
  const asked: unknown[] = [];
  const store: RecordStore = {
    get: (_type, id) => {
      asked.push(['get', id]);
      return Promise.resolve(id === 'gone' ? undefined : stored(id));
    },
    page: () => Promise.resolve({ records: [], next: null }),
    find: (_type, conditions, most) => {
      asked.push(['find', conditions, ...(most === undefined ? [] : [most])]);
      return Promise.resolve(
        conditions.flatMap(({ values }) => values.map((value) => stored(String(value)))),
      );
    },
    write: (_type, changes) => {
      asked.push(['write', changes.map(({ change }) => `${change.kind} ${change.ref.id}`)]);
      return Promise.resolve(
        changes.map(({ change }): ApplyResult => ({ ok: true, record: { id: change.ref.id } })),
      );
    },
    ...more,
  };
  return { asked, store: gathered(store) };
}

test('records that are read in the same moment are asked for once, each for whoever wants it', async () => {
  const { asked, store } = noting({
    getMany: (_type, ids) => {
      asked.push(['getMany', ids]);
      return Promise.resolve(ids.filter((id) => id !== 'gone').map((id) => stored(id)));
    },
  });
  const found = await Promise.all(['a', 'b', 'a', 'gone'].map((id) => store.get('booking', id)));
  expect(found.map((one) => one?.ref.id)).toEqual(['a', 'b', 'a', undefined]);
  expect(asked).toEqual([['getMany', ['a', 'b', 'gone']]]);
  await store.get('booking', 'c');
  expect(asked).toHaveLength(2);
  expect(asked[1]).toEqual(['get', 'c']);
});

test('where each record has to be read alone, the same one is still read once', async () => {
  const { asked, store } = noting();
  await Promise.all(['a', 'b', 'a'].map((id) => store.get('booking', id)));
  expect(asked).toEqual([
    ['get', 'a'],
    ['get', 'b'],
  ]);
});

const where = (party: string, state = 'open'): SearchCondition[] => [
  { field: 'party', values: [party] },
  { field: 'state', values: [state] },
];

test('searches that differ in one field are one search for all of its values', async () => {
  const { asked, store } = noting();
  const found = await Promise.all(
    [where('P1'), where('P2'), where('P1')].map((each) => store.find('booking', each)),
  );
  expect(asked).toEqual([
    [
      'find',
      [
        { field: 'party', values: ['P1', 'P2'] },
        { field: 'state', values: ['open'] },
      ],
    ],
  ]);
  expect(found.map((records) => records.length)).toEqual([3, 3, 3]);
});

test('searches that differ in more are asked for each; one that is limited is asked as it is', async () => {
  const { asked, store } = noting();
  await Promise.all([store.find('booking', where('P1')), store.find('booking', where('P2', 'held'))]);
  expect(asked).toEqual([
    ['find', where('P1')],
    ['find', where('P2', 'held')],
  ]);
  await store.find('booking', where('P3'), 5);
  expect(asked[2]).toEqual(['find', where('P3'), 5]);
});

test('edits of several runs go together where the system takes many, and each gets its own results', async () => {
  const { asked, store } = noting({ takesMany: true });
  const results = await Promise.all(
    [[edit('a'), edit('b')], [edit('c')]].map((changes) => store.write('booking', changes)),
  );
  expect(asked).toEqual([['write', ['edit a', 'edit b', 'edit c']]]);
  expect(results.map((some) => some.map((one) => one.ok && one.record?.['id']))).toEqual([['a', 'b'], ['c']]);
});

test('creations, and edits for a system that takes one at a time, go as they come', async () => {
  const one = noting();
  await Promise.all([one.store.write('booking', [edit('a')]), one.store.write('booking', [edit('b')])]);
  expect(one.asked).toHaveLength(2);
  const many = noting({ takesMany: true });
  const create: GuardedChange = { change: { kind: 'create', ref: edit('x').change.ref, record: {} } };
  await Promise.all([many.store.write('booking', [create]), many.store.write('booking', [edit('a')])]);
  expect(many.asked).toHaveLength(2);
});

test('a search that is refused for one value fails whoever asked for it, and nobody else', async () => {
  const refused = new WorkspaceError({ code: 'refused', message: 'Not that.', retry: false });
  const { store } = noting({
    find: (_type, conditions) =>
      conditions.some(({ values }) => values.includes('bad'))
        ? Promise.reject(refused)
        : Promise.resolve([stored('x')]),
  });
  const results = await Promise.allSettled(
    ['P1', 'bad', 'P2'].map((party) => store.find('booking', where(party))),
  );
  expect(results.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled']);
});

test('a system that is away is asked once for all', async () => {
  let asked = 0;
  const away = new WorkspaceError({ code: 'unavailable', message: 'It is away.', retry: true });
  const { store } = noting({
    find: () => {
      asked++;
      return Promise.reject(away);
    },
  });
  const results = await Promise.allSettled(['P1', 'P2'].map((party) => store.find('booking', where(party))));
  expect(results.map(({ status }) => status)).toEqual(['rejected', 'rejected']);
  expect(asked).toBe(1);
});
