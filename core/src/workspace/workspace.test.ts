import type { StoredRecord } from '../model/record';
import { Catalog, type System } from '../model/system';
import { MemoryWorkspace } from './memory';
import { OverlayWorkspace } from './overlay';

const system: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 1,
  recordTypes: [
    {
      name: 'booking',
      label: 'Booking',
      plural: 'Bookings',
      idField: 'id',
      nameField: 'id',
      fields: [
        { name: 'id', label: 'Id', type: 'text' },
        { name: 'state', label: 'State', type: 'text' },
        { name: 'weight', label: 'Weight', type: 'integer' },
      ],
    },
  ],
};
const catalog = new Catalog([system]);
const ref = (id: string) => ({ system: 'desk', recordType: 'booking', id });
const booking = (id: string, state: string, weight: number): StoredRecord => ({
  ref: ref(id),
  record: { id, state, weight },
  version: '3',
});
const search = (field: string, ...values: (string | number)[]) => ({
  system: 'desk',
  recordType: 'booking',
  conditions: [{ field, values }],
});
const setState = (id: string, before: string, after: string) => ({
  change: { kind: 'edit' as const, ref: ref(id), edits: [{ path: 'state', before, after }] },
});
const ids = (found: readonly StoredRecord[]) => found.map((stored) => stored.ref.id);

function world() {
  const base = new MemoryWorkspace(catalog, [
    booking('B-1', 'open', 5),
    booking('B-2', 'open', 7),
    booking('B-3', 'closed', 5),
  ]);
  return { base, overlay: new OverlayWorkspace(catalog, base) };
}

describe('records in memory', () => {
  test('are found by value, compared by type, and by one of several', async () => {
    const { base } = world();
    expect(ids(await base.find(search('weight', '5')))).toEqual(['B-1', 'B-3']);
    expect(ids(await base.find(search('state', 'closed', 'open')))).toEqual(['B-1', 'B-2', 'B-3']);
    expect(await base.get(ref('B-9'))).toBeUndefined();
  });

  test('a change made for another state is refused, and the others are applied', async () => {
    const { base } = world();
    const results = await base.apply([setState('B-1', 'held', 'x'), setState('B-2', 'open', 'held')]);
    expect(results).toMatchObject([{ ok: false, problem: { code: 'changed in between' } }, { ok: true }]);
    expect((await base.get(ref('B-2')))?.record).toMatchObject({ state: 'held' });
  });
});

describe('an overlay', () => {
  test('shows its own writes, to reads and to searches, and leaves the base alone', async () => {
    const { base, overlay } = world();
    await overlay.apply([setState('B-1', 'open', 'closed')]);
    expect((await overlay.get(ref('B-1')))?.record).toMatchObject({ state: 'closed' });
    expect(ids(await overlay.find(search('state', 'open')))).toEqual(['B-2']);
    expect(ids(await overlay.find(search('state', 'closed'))).sort()).toEqual(['B-1', 'B-3']);
    expect((await base.get(ref('B-1')))?.record).toMatchObject({ state: 'open' });
  });

  test('merges several writes of a record into one change for the version that was read', async () => {
    const { overlay } = world();
    await overlay.apply([setState('B-1', 'open', 'held'), setState('B-1', 'held', 'closed')]);
    expect([...overlay.changes()]).toEqual([{ ...setState('B-1', 'open', 'closed'), version: '3' }]);
  });

  test('a write that comes back to where it began is no change', async () => {
    const { overlay } = world();
    await overlay.apply([setState('B-1', 'open', 'held'), setState('B-1', 'held', 'open')]);
    expect([...overlay.changes()]).toEqual([]);
  });

  test('remembers every record it met as it was first', async () => {
    const { overlay } = world();
    await overlay.find(search('state', 'open'));
    await overlay.apply([setState('B-1', 'open', 'held')]);
    expect(overlay.met.map((stored) => [stored.ref.id, stored.record['state']])).toEqual([
      ['B-1', 'open'],
      ['B-2', 'open'],
    ]);
  });

  test('a record removed here is gone here', async () => {
    const { overlay } = world();
    const { record } = booking('B-3', 'closed', 5);
    await overlay.apply([{ change: { kind: 'remove', ref: ref('B-3'), record } }]);
    expect(await overlay.get(ref('B-3'))).toBeUndefined();
    expect(ids(await overlay.find(search('weight', 5)))).toEqual(['B-1']);
    expect([...overlay.changes()]).toMatchObject([{ change: { kind: 'remove' } }]);
  });
});

describe('a workspace with many records', () => {
  const many = () =>
    new MemoryWorkspace(
      catalog,
      Array.from({ length: 500 }, (_none, at) => booking(`K${at}`, at % 2 === 0 ? 'Tårn' : 'shut', at)),
    );
  const ids = async (workspace: MemoryWorkspace, ...wanted: Parameters<typeof search>) =>
    (await workspace.find(search(...wanted))).map((stored) => stored.ref.id);

  test('finds by value as one with few does: text in either normal form, numbers as text', async () => {
    expect(await ids(many(), 'state', 'Ta\u030arn')).toHaveLength(250);
    expect(await ids(many(), 'weight', '7', 8)).toEqual(['K7', 'K8']);
    expect(await ids(many(), 'weight', 7.5)).toEqual([]);
  });

  test('finds what was written after a search', async () => {
    const workspace = many();
    expect(await ids(workspace, 'state', 'lost')).toEqual([]);
    await workspace.apply([setState('K1', 'shut', 'lost')]);
    expect(await ids(workspace, 'state', 'lost')).toEqual(['K1']);
  });
});
