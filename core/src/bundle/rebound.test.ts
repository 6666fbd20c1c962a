import type { RuleBody } from '../engine/rule';
import { emptyBundle, type WholeBundle } from './bundle';
import { rebound } from './rebound';

const rule: RuleBody = {
  name: 'Name to party',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['name'] },
  guard: '',
  finds: [{ alias: 'party', system: 'desk', recordType: 'party', match: [], none: 'stop', several: 'fail' }],
  actions: [
    { kind: 'create', alias: 'note', system: 'desk', recordType: 'note', lines: [] },
    { kind: 'send', endpoint: 'post', type: 'company.told', parts: [] },
    { kind: 'file', name: '"list"', format: 'csv', to: { kind: 'address', endpoint: 'post' }, columns: [] },
    // A folder is called as the settings of each environment call it.
    { kind: 'file', name: '"list"', format: 'csv', to: { kind: 'folder', folder: 'post' }, columns: [] },
  ],
};
const bundle: WholeBundle = {
  ...emptyBundle,
  addresses: [{ key: 'post', name: 'Post' }],
  rules: [{ id: '0192f3a0-0001-7000-8000-000000000001', published: true, rule }],
  samples: [
    {
      id: '0192f3b0-0001-7000-8000-000000000001',
      name: 'Renamed',
      note: '',
      event: {
        id: 'e1',
        source: '/book',
        kind: 'updated',
        ref: { system: 'book', recordType: 'company', id: 'book/1' },
        time: '2026-03-09T09:00:00Z',
        record: { id: 'book/1' },
        changed: ['name'],
      },
      records: [
        { ref: { system: 'desk', recordType: 'party', id: 'P1' }, record: { id: 'P1' }, version: '7' },
        {
          ref: { system: 'vast-knot', recordType: 'counterpart', id: '1' },
          record: { id: '1', a_system: 'book', a_id: 'book', b_system: 'desk', b_id: 'P1' },
        },
      ],
      masked: ['book/company/name'],
      expected: {
        records: [{ key: 'desk/party/P1', deed: 'write', fields: { name: { is: 'any' } } }],
        messages: [{ key: 'post company.told book/company/book/1 2', data: {} }],
        problems: [],
      },
    },
  ],
};

test('systems and addresses are called by their names here wherever they stand, and by nothing else', () => {
  const there = rebound(bundle, {
    systems: { book: 'trial-book', desk: 'trial-desk' },
    addresses: { post: 'trial-post' },
  });
  const [made] = there.rules;
  expect(made?.rule.trigger.system).toBe('trial-book');
  expect(made?.rule.finds[0]?.system).toBe('trial-desk');
  expect(made?.rule.actions).toMatchObject([
    { system: 'trial-desk' },
    { endpoint: 'trial-post' },
    { to: { endpoint: 'trial-post' } },
    { to: { folder: 'post' } },
  ]);
  const [sample] = there.samples;
  expect(sample?.event.ref).toEqual({ system: 'trial-book', recordType: 'company', id: 'book/1' });
  expect(sample?.event.source).toBe('/book');
  expect(sample?.records.map(({ ref }) => ref.system)).toEqual(['trial-desk', 'vast-knot']);
  // What an id says is the system's own, whatever it looks like.
  expect(sample?.records[1]?.record).toEqual({
    id: '1',
    a_system: 'trial-book',
    a_id: 'book',
    b_system: 'trial-desk',
    b_id: 'P1',
  });
  expect(sample?.masked).toEqual(['trial-book/company/name']);
  expect(sample?.expected?.records[0]?.key).toBe('trial-desk/party/P1');
  expect(sample?.expected?.messages[0]?.key).toBe('trial-post company.told trial-book/company/book/1 2');
  expect(there.addresses).toEqual([{ key: 'trial-post', name: 'Post' }]);
});

test('two systems may change places, and going back gives the bundle as it was', () => {
  const swap = { systems: { book: 'desk', desk: 'book' }, addresses: {} };
  const swapped = rebound(bundle, swap);
  expect(swapped.rules[0]?.rule.trigger.system).toBe('desk');
  expect(swapped.rules[0]?.rule.finds[0]?.system).toBe('book');
  expect(rebound(swapped, swap)).toEqual(bundle);
});
