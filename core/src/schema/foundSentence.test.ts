import type { RecordType } from '../model/system';
import { foundSentence } from './foundSentence';

const type: RecordType = {
  name: 'pier',
  label: 'Pier',
  plural: 'Piers',
  idField: 'id',
  nameField: 'id',
  fields: [
    { name: 'id', label: 'Id', type: 'text' },
    { name: 'updated_at', label: 'Updated', type: 'datetime' },
  ],
};
const now = new Date('2026-03-09T12:00:00Z');
const records = (count: number, updated_at = '2026-03-08T23:00:00Z') =>
  Array.from({ length: count }, (_none, at) => ({
    id: `P-${at}`,
    updated_at: at === 0 ? updated_at : '2026-01-01T00:00:00Z',
  }));
const sentence = (page: object) =>
  foundSentence({ records: [], total: undefined, next: null, ...page }, type, now);

test.each([
  [
    { records: records(25), total: 100, next: '2' },
    '25 records of 100, 3 more pages; ids are text; the newest changed yesterday.',
  ],
  [
    { records: records(2), next: '2' },
    '2 records, and more pages; ids are text; the newest changed yesterday.',
  ],
  [{ records: records(1, '2026-03-09T00:00:00Z') }, '1 record; ids are text; the newest changed today.'],
  [
    { records: records(2, '2026-02-20T00:00:00Z'), total: 9 },
    '2 records of 9, and no way to the others; ids are text; the newest changed 17 days ago.',
  ],
  [{}, 'no records.'],
  [{ records: [{ id: 7 }, { id: 7 }] }, '2 records; ids are numbers; some have the same id.'],
  [{ records: [{ no: 7 }] }, '1 record; none has an id at “id”.'],
])('%#: %s', (page, text) => {
  expect(sentence(page)).toBe(text);
});
