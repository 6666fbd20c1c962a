import { connectionDraftSchema, draftFindings, emptyConnection, type ConnectionDraft } from './draft';

const draft = (more: Partial<ConnectionDraft> = {}): ConnectionDraft => ({
  system: { key: 'quay', tag: 'QU', name: 'Quay', hue: 1 },
  recordTypes: [
    {
      name: 'pier',
      label: 'Pier',
      plural: 'Piers',
      idField: 'id',
      nameField: 'id',
      fields: [{ name: 'id', label: 'Id', type: 'text' }],
    },
  ],
  connection: {
    ...emptyConnection,
    baseUrl: 'https://quay.example',
    recordTypes: { pier: { path: '/piers' } },
  },
  proposed: {},
  reasons: [],
  leftOut: [],
  origin: '',
  ...more,
});
const found = (one: ConnectionDraft, taken: Parameters<typeof draftFindings>[1] = []) =>
  draftFindings(one, taken).map(({ at }) => at);

test('a draft that is ready has nothing to be said of it', () => {
  expect(connectionDraftSchema.validate(draft()).error).toBeUndefined();
  expect(found(draft())).toEqual([]);
});

test('what is not right yet is kept, and told with its place', () => {
  const half = draft({
    system: { key: 'Quay!', tag: 'q', name: '', hue: 1 },
    connection: {
      ...emptyConnection,
      usual: { ...emptyConnection.usual, list: { ...emptyConnection.usual.list, items: 'data' } },
      recordTypes: { pier: { path: 'piers' } },
    },
  });
  expect(connectionDraftSchema.validate(half).error).toBeUndefined();
  expect(found(half)).toEqual([
    'system/key',
    'system/tag',
    'system/tag',
    'system/name',
    'connection/baseUrl',
    'connection/usual/list/items',
    'connection/recordTypes/pier/path',
  ]);
});

test('keys and letters of other systems are taken, and references have to lead somewhere', () => {
  const other = { key: 'quay', tag: 'QU', name: 'Old Quay' };
  expect(found(draft(), [other])).toEqual(['system/key', 'system/tag']);
  const [pier] = draft().recordTypes;
  const ship = { name: 'ship', label: 'Ship', type: 'reference' as const, refersTo: ['ship'] };
  const referring = draft({
    recordTypes: pier ? [{ ...pier, nameField: 'name', fields: [...pier.fields, ship] }] : [],
  });
  expect(found(referring)).toEqual(['types/pier/nameField', 'types/pier/ship']);
});

test.each<[string, object]>([
  ['a type without fields', { recordTypes: [{}] }],
  ['a field that is text', { recordTypes: [{ ...draft().recordTypes[0], fields: ['id'] }] }],
  ['a connection of nothing', { connection: { kind: 'http' } }],
  ['a type that is no object', { connection: { ...draft().connection, recordTypes: { pier: 7 } } }],
])('%s has no shape that anything could go by, and is refused', (_what, more) => {
  expect(connectionDraftSchema.validate({ ...draft(), ...more }).error).toBeDefined();
});
