import type { RecordType } from '../model/system';
import { deriveChange, imageAfterWrite, type RecordImage } from './image';

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

test.each([
  ['a number sent as text', { weight: '5' }, []],
  ['the same instant in another zone', { due: '2026-01-01T01:00:00+01:00' }, []],
  ['options in another order', { tags: ['b', 'a'] }, []],
  ['blank in another form', { note: null }, []],
  ['the revision that the system counts', { rev: 7 }, []],
  ['a number with other digits', { weight: 5.5 }, ['weight']],
  ['another phone', { phone: '2' }, ['phone']],
])('%s', (_name, sent, changed) => {
  expect(deriveChange(booking, image, { ...start, ...sent }, 7).changed).toEqual(changed);
});

test('a first sight gives no changes and no before', () => {
  expect(deriveChange(booking, undefined, start, 6)).toMatchObject({
    before: undefined,
    changed: [],
    own: false,
  });
});

describe('our own writes', () => {
  const written = imageAfterWrite(image, { version: 8, edits: [{ path: 'phone', before: '1', after: '2' }] });

  test('the event of a write of ours tells nothing new', () => {
    const derived = deriveChange(booking, written, { ...start, phone: '2', rev: 8 }, 8);
    expect(derived).toMatchObject({ changed: [], own: true, image: { echoes: [] } });
  });

  test('an event older than our write brings its own change, and does not undo ours', () => {
    const older = deriveChange(booking, written, { ...start, weight: 9, rev: 7 }, 7);
    expect(older.changed).toEqual(['weight']);
    expect(older.image.record).toMatchObject({ weight: 9, phone: '2' });
    const ours = deriveChange(booking, older.image, { ...start, weight: 9, phone: '2', rev: 8 }, 8);
    expect(ours).toMatchObject({ changed: [], own: true });
  });

  test('a later change of the field we wrote is a change', () => {
    const derived = deriveChange(booking, written, { ...start, phone: '3', rev: 9 }, 9);
    expect(derived).toMatchObject({ changed: ['phone'], own: false });
  });
});
