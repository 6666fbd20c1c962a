import { readSort, shownPositions } from './gridView';

const columns = [
  { name: 'port', label: 'Port', type: 'text', key: true },
  { name: 'crates', label: 'Crates', type: 'integer', key: false },
] as const;
const kept = [
  { id: 1, cells: ['NOR', 10] },
  { id: 2, cells: ['HOL', 9] },
  { id: 3, cells: ['EID', null] },
];

test.each([
  [null, [0, 1, 2]],
  ['port', [2, 1, 0]],
  ['-port', [0, 1, 2]],
  ['crates', [1, 0, 2]],
])('sorted by %s: numbers by size, blanks last', (sort, expected) => {
  expect(shownPositions({ rows: kept, kept, columns, search: '', sort: readSort(sort) })).toEqual(expected);
});

test('a search looks into every column, and a new row stays in sight at the end', () => {
  const rows = [...kept, { id: -1, cells: ['', null] }];
  expect(shownPositions({ rows, kept, columns, search: 'ho', sort: readSort('port') })).toEqual([1, 3]);
  expect(shownPositions({ rows, kept, columns, search: '10', sort: undefined })).toEqual([0, 3]);
});

test('an edited row does not run away: rows are sorted as they were fetched', () => {
  const rows = [{ id: 1, cells: ['AAA', 10] }, ...kept.slice(1)];
  expect(shownPositions({ rows, kept, columns, search: '', sort: readSort('port') })).toEqual([2, 1, 0]);
});
