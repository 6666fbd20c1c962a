import {
  askedChanges,
  cellsFromText,
  editedRows,
  withCells,
  withNewRows,
  withRemoved,
  type Edits,
} from './rowEdits';

const rows = [
  { id: 7, cells: ['NOR', 'N1'] },
  { id: 9, cells: ['HOL', 'N2'] },
];
const none: Edits = new Map();

test('an edited row keeps its place, a new one stands at the end', () => {
  const edits = withNewRows(withCells(rows, none, [{ id: 7, column: 1, value: 'N9' }]), [['MUR', null]]);
  expect(editedRows(rows, edits)).toEqual([
    { id: 7, cells: ['NOR', 'N9'] },
    { id: 9, cells: ['HOL', 'N2'] },
    { id: -1, cells: ['MUR', null] },
  ]);
});

test('a cell that is typed back to what it was is no edit', () => {
  const edits = withCells(rows, none, [{ id: 7, column: 1, value: 'N9' }]);
  expect(withCells(rows, edits, [{ id: 7, column: 1, value: 'N1' }]).size).toBe(0);
});

test('the server is asked for each change with what was there before', () => {
  const edits = withRemoved(
    withNewRows(withCells(rows, none, [{ id: 7, column: 1, value: 'N9' }]), [['MUR', 'S1']]),
    [9],
  );
  expect(askedChanges(rows, edits)).toEqual([
    { id: 7, before: ['NOR', 'N1'], after: ['NOR', 'N9'] },
    { id: null, before: null, after: ['MUR', 'S1'] },
    { id: 9, before: ['HOL', 'N2'], after: null },
  ]);
});

test('removing a removed row brings it back, and a new row is gone at once', () => {
  const edits = withRemoved(withNewRows(none, [['MUR', 'S1']]), [9, -1]);
  expect([...edits]).toEqual([[9, null]]);
  expect(withRemoved(edits, [9]).size).toBe(0);
});

test('cells of a spreadsheet come as rows behind tabs', () => {
  expect(cellsFromText('NOR\tN1\r\nHOL\tN2\r\n')).toEqual([
    ['NOR', 'N1'],
    ['HOL', 'N2'],
  ]);
  expect(cellsFromText('only')).toEqual([['only']]);
});
