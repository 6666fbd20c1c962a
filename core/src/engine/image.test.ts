import * as fc from 'fast-check';
import type { JsonObject } from '../model/json';
import type { RecordType } from '../model/system';
import {
  deriveChange,
  imageAfterRemoval,
  imageAfterWrite,
  type Derived,
  type RecordImage,
  type ToldState,
} from './image';

const booking: RecordType = {
  name: 'booking',
  label: 'Booking',
  plural: 'Bookings',
  idField: 'id',
  nameField: 'id',
  fields: [
    { name: 'id', label: 'Id', type: 'text' },
    { name: 'phone', label: 'Phone', type: 'text' },
    { name: 'weight', label: 'Weight', type: 'decimal' },
    { name: 'due', label: 'Due', type: 'datetime' },
    { name: 'tags', label: 'Tags', type: 'multichoice' },
    { name: 'rev', label: 'Revision', type: 'integer', keptBySystem: true },
  ],
};
const start = { id: 'B-1', phone: '1', weight: 5, due: '2026-01-01T00:00Z', tags: ['a', 'b'], rev: 6 };
const image: RecordImage = { record: start, echoes: [] };
const versionOf = ({ rev }: JsonObject) => (typeof rev === 'number' ? rev : undefined);

const told = (known: RecordImage | undefined, record: JsonObject, more: Partial<ToldState> = {}): Derived =>
  deriveChange(booking, known, { record, version: versionOf(record), ...more }, versionOf);

/** Returns what was derived, where it was. */
function news(derived: Derived): Extract<Derived, { is: 'news' }> {
  if (derived.is !== 'news') throw new Error(`it is ${derived.is}`);
  return derived;
}

test.each([
  ['a number sent as text', { weight: '5' }, []],
  ['the same instant in another zone', { due: '2026-01-01T01:00:00+01:00' }, []],
  ['options in another order', { tags: ['b', 'a'] }, []],
  ['blank in another form', { note: null }, []],
  ['the revision that the system counts', { rev: 7 }, []],
  ['a number with other digits', { weight: 5.5 }, ['weight']],
  ['another phone', { phone: '2' }, ['phone']],
])('%s', (_name, sent, changed) => {
  expect(news(told(image, { ...start, rev: 7, ...sent })).changed).toEqual(changed);
});

test('a first sight gives no changes and no before', () => {
  expect(told(undefined, start)).toMatchObject({ before: undefined, changed: [], own: false });
});

describe('our own writes', () => {
  const written = imageAfterWrite(image, { version: 8, edits: [{ path: 'phone', before: '1', after: '2' }] });

  test('the event of a write of ours tells nothing new', () => {
    const derived = told(written, { ...start, phone: '2', rev: 8 });
    expect(derived).toMatchObject({ changed: [], own: true, image: { echoes: [] } });
  });

  test('an event older than our write brings its own change, and does not undo ours', () => {
    const older = news(told(written, { ...start, weight: 9, rev: 7 }));
    expect(older.changed).toEqual(['weight']);
    expect(older.image.record).toMatchObject({ weight: 9, phone: '2' });
    const ours = told(older.image, { ...start, weight: 9, phone: '2', rev: 8 });
    expect(ours).toMatchObject({ changed: [], own: true });
  });

  test('a later change of the field we wrote is a change', () => {
    const derived = told(written, { ...start, phone: '3', rev: 9 });
    expect(derived).toMatchObject({ changed: ['phone'], own: false });
  });

  test('the event of a write of ours that somebody’s later change overtook is late, and ours', () => {
    const later = news(told(written, { ...start, phone: '3', rev: 9 }));
    expect(told(later.image, { ...start, phone: '2', rev: 8 })).toMatchObject({ is: 'late', own: true });
  });

  test('a write without an answer is ours when it comes back, and nothing when it does not', () => {
    const edits = [{ path: 'phone', before: '1', after: '2' }];
    const unsure = imageAfterWrite(image, { edits, unsure: true });
    expect(unsure.record).toEqual(start);
    expect(told(unsure, { ...start, phone: '2', rev: 7 })).toMatchObject({ changed: ['phone'], own: true });
    expect(told(unsure, { ...start, weight: 9, rev: 7 })).toMatchObject({ changed: ['weight'], own: false });
    const both = { ...start, phone: '2', weight: 9, rev: 8 };
    expect(told(unsure, both)).toMatchObject({ changed: ['phone', 'weight'], own: false });
  });
});

describe('what comes late', () => {
  test('an older version changes nothing, and both versions are told', () => {
    const derived = told(image, { ...start, phone: 'old', rev: 4 });
    expect(derived).toEqual({ is: 'late', told: 4, known: 6, own: false, image });
  });

  test('the same version a second time tells nothing', () => {
    expect(told(image, start)).toMatchObject({ is: 'news', changed: [], own: false });
  });

  test('an update of a record that was removed is late; one that is made anew is seen for the first time', () => {
    const gone = imageAfterRemoval(image, { id: 'B-1', rev: 7 });
    expect(told(gone, { ...start, phone: '2', rev: 7 })).toMatchObject({ is: 'late', known: undefined });
    expect(told(gone, { ...start, rev: 9 })).toEqual({ is: 'unsure' });
    expect(told(gone, { ...start, rev: 9 }, { created: true })).toMatchObject({
      is: 'news',
      before: undefined,
    });
    expect(told(gone, { ...start, rev: 9 }, { fetched: true })).toMatchObject({
      is: 'news',
      before: undefined,
    });
    // It may be made anew and count from the beginning, or be late: only a look says which.
    expect(told(gone, { ...start, rev: 1 }, { created: true })).toEqual({ is: 'unsure' });
  });

  describe('where the system keeps no version', () => {
    const plain: RecordImage = {
      record: { id: 'B-1', phone: '1' },
      echoes: [],
      toldAt: '2026-03-09T10:00:00Z',
    };
    const at = (time: string | undefined, phone = '2', known = plain) =>
      told(known, { id: 'B-1', phone }, { time });

    test('the time of the event says whether it is newer', () => {
      expect(at('2026-03-09T10:00:01Z')).toMatchObject({ is: 'news', changed: ['phone'] });
    });

    test.each([
      ['an older time', '2026-03-09T09:59:59Z'],
      ['the same time', '2026-03-09T11:00:00+01:00'],
      ['no time', undefined],
    ])('with %s the record has to be fetched, unless nothing changed', (_what, time) => {
      expect(at(time)).toEqual({ is: 'unsure' });
      expect(at(time, '1')).toMatchObject({ is: 'news', changed: [] });
    });

    test('a record that was only learnt has to be fetched: its event may be from before', () => {
      const { toldAt: _none, ...learnt } = plain;
      expect(at('2026-03-09T10:00:01Z', '2', learnt)).toEqual({ is: 'unsure' });
    });

    test('a state that does not know of a write of ours has to be fetched, whatever its time', () => {
      const edits = [{ path: 'phone', before: '1', after: '5' }];
      const written = imageAfterWrite(plain, { edits });
      expect(at('2026-03-09T10:00:05Z', '1', written)).toEqual({ is: 'unsure' });
      expect(at('2026-03-09T10:00:05Z', '5', written)).toMatchObject({ is: 'news', own: true });
    });

    test('what was fetched is how the record is', () => {
      const derived = told(plain, { id: 'B-1', phone: '2' }, { fetched: true, time: '2026-03-09T09:00:00Z' });
      expect(derived).toMatchObject({ is: 'news', changed: ['phone'], image: { toldAt: plain.toldAt } });
    });
  });
});

/**
 * One record goes through versions, some of them writes of ours. Their events come in any order, some twice, some never; only that of
 * the newest comes for certain. A write of ours is known before the event of it, or of anything newer, is looked at.
 */
const history = fc
  .array(
    fc.record({
      phone: fc.constantFrom('1', '2', '3'),
      weight: fc.constantFrom(1, 2, 3),
      ours: fc.boolean(),
      times: fc.constantFrom(0, 1, 1, 2),
    }),
    { minLength: 1, maxLength: 8 },
  )
  .chain((steps) => {
    const states: { record: JsonObject; ours: boolean; before: JsonObject }[] = [];
    let record: JsonObject = { ...start, rev: 0 };
    for (const { phone, weight, ours } of steps) {
      const before = record;
      record = ours
        ? { ...record, phone, rev: states.length + 1 }
        : { ...record, phone, weight, rev: states.length + 1 };
      states.push({ record, ours, before });
    }
    const events = steps.flatMap(({ times }, at) =>
      Array<number>(at === steps.length - 1 ? Math.max(1, times) : times).fill(at),
    );
    return fc.tuple(fc.constant(states), fc.shuffledSubarray(events, { minLength: events.length }));
  });

test('law: whatever order the events of a record come in, doubled and with gaps, the newest state is what stays', () => {
  fc.assert(
    fc.property(history, ([states, order]) => {
      let known: RecordImage = { record: { ...start, rev: 0 }, echoes: [] };
      // What a rule that copies both fields has written to another record.
      const copy: Record<string, unknown> = { phone: start.phone, weight: start.weight };
      let remembered = 0;
      for (const at of order) {
        for (; remembered <= at; remembered++) {
          const state = states[remembered];
          if (!state?.ours) continue;
          const edits = [
            { path: 'phone', before: state.before['phone'] ?? null, after: state.record['phone'] ?? null },
          ];
          known = imageAfterWrite(known, { version: remembered + 1, edits });
          // The run that wrote it has computed what follows from it.
          copy['phone'] = state.record['phone'];
        }
        const derived = told(known, states[at]?.record ?? {});
        if (derived.is === 'unsure') throw new Error('a counted version is never unsure');
        known = derived.image;
        if (derived.is === 'news' && !derived.own)
          for (const path of derived.changed) copy[path] = known.record[path];
      }
      const newest = states.at(-1)?.record;
      expect(known.record).toEqual(newest);
      expect(copy).toEqual({ phone: newest?.['phone'], weight: newest?.['weight'] });
    }),
    { numRuns: 2000 },
  );
});
