import { fireEvent, screen, waitFor } from '@testing-library/react';
import { FakeServer, show } from '../testing/app';
import { RowsTab } from './RowsTab';
import { zones as table } from './testTable';
import { useRowEdits } from './useRowEdits';

function Shown() {
  return <RowsTab table={table} edits={useRowEdits(table)} />;
}

// Without a layout there is no height, and what is out of sight is not drawn.
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { value: 900 });
});

async function openGrid(rights?: Parameters<typeof show>[1]) {
  const server = new FakeServer({ 'POST /tables/Zones/rows': { done: [], revision: 2 } });
  const shown = show(<Shown />, rights);
  const grid = await screen.findByRole('grid', { name: 'Rows of Zones' });
  const cell = (name: string) => screen.getByRole('gridcell', { name });
  return { server, ...shown, grid, cell };
}

const changesOf = (server: FakeServer) =>
  (server.of('POST', '/tables/Zones/rows').at(-1)?.body as { changes: unknown } | undefined)?.changes;

test('a cell is walked to with the arrows, typed over, and saved with the others as one change', async () => {
  const { server, user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Town Northport'));
  grid.focus();
  await user.keyboard('{ArrowDown}{ArrowRight}');
  expect(grid.getAttribute('aria-activedescendant')).toBe('cell-1-1');
  await user.keyboard('S9{Enter}');
  expect(cell('Zone S9').className).toContain('changed');
  await user.click(screen.getByRole('button', { name: /^Save/ }));
  await waitFor(() =>
    expect(changesOf(server)).toEqual([{ id: 2, before: ['Murrow', 'S1'], after: ['Murrow', 'S9'] }]),
  );
});

test('Escape leaves a cell as it was, and undo takes back what was entered', async () => {
  const { user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Zone N1'));
  grid.focus();
  await user.keyboard('other{Escape}');
  expect(cell('Zone N1')).toBeTruthy();
  await user.keyboard('N7{Enter}');
  expect(cell('Zone N7')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: /Undo/ }));
  expect(cell('Zone N1')).toBeTruthy();
});

test('a key that would stand twice is told of before anything is saved', async () => {
  const { server, user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Town Murrow'));
  grid.focus();
  await user.keyboard('Northport{Enter}');
  expect(await screen.findByText(/have the same key “Northport”/)).toBeTruthy();
  expect(server.of('POST', '/tables/Zones/rows')).toEqual([]);
});

test('a row that is typed below the last is new, and one that is removed is marked until it is saved', async () => {
  const { server, user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Town Skerry'));
  grid.focus();
  await user.keyboard('{ArrowDown}Holm{Enter}');
  fireEvent.mouseDown(cell('Town Northport'));
  grid.focus();
  await user.keyboard('{Control>}{Delete}{/Control}');
  expect(cell('Town Northport, to be removed')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: /^Save/ }));
  await waitFor(() => expect(changesOf(server)).toBeDefined());
  expect(changesOf(server)).toEqual([
    { id: null, before: null, after: ['Holm', null] },
    { id: 1, before: ['Northport', 'N1'], after: null },
  ]);
});

test('who may only read walks the cells and changes none', async () => {
  const { user, grid, cell } = await openGrid(['tables.read']);
  fireEvent.mouseDown(cell('Zone N1'));
  grid.focus();
  await user.keyboard('X9{Enter}');
  expect(cell('Zone N1')).toBeTruthy();
  expect(screen.queryByRole('button', { name: /^Save/ })).toBeNull();
});
