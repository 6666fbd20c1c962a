import { fireEvent, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
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

beforeEach(() => window.sessionStorage.clear());

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

test('what is not saved is there again after the page was left, until it is dropped', async () => {
  const { user, grid, cell, unmount } = await openGrid();
  fireEvent.mouseDown(cell('Zone N1'));
  grid.focus();
  await user.keyboard('N7{Enter}');
  unmount();
  const again = await openGrid();
  expect(again.cell('Zone N7').className).toContain('changed');
  await again.user.click(screen.getByRole('button', { name: 'Drop the changes' }));
  again.unmount();
  const dropped = await openGrid();
  expect(dropped.cell('Zone N1')).toBeTruthy();
});

test('Ctrl+S saves from the field for searching too', async () => {
  const { server, user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Zone N1'));
  grid.focus();
  await user.keyboard('N7{Enter}');
  await user.click(screen.getByLabelText('Search the rows'));
  await user.keyboard('{Control>}s{/Control}');
  await waitFor(() =>
    expect(changesOf(server)).toEqual([{ id: 1, before: ['Northport', 'N1'], after: ['Northport', 'N7'] }]),
  );
});

test('what stands against saving is marked in its row, and leads there when it is pressed', async () => {
  const { user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Town Skerry'));
  grid.focus();
  await user.keyboard('Northport{Enter}');
  const told = await screen.findByRole('button', { name: /have the same key “Northport”/ });
  await waitFor(() => expect(grid.querySelectorAll('.wrong-row')).toHaveLength(2));
  await user.click(screen.getByLabelText('Search the rows'));
  await user.click(told);
  expect(document.activeElement).toBe(grid);
  expect(grid.getAttribute('aria-activedescendant')).toBe('cell-2-0');
});

test('a pasted first line that names the columns is no row', async () => {
  const { server, user, grid, cell } = await openGrid();
  fireEvent.mouseDown(cell('Town Northport'));
  grid.focus();
  fireEvent.paste(grid, {
    clipboardData: { getData: () => 'Town\tzone\r\nNorthport\tN2\nMurrow\tS3\n' },
  });
  await user.click(screen.getByRole('button', { name: /^Save/ }));
  await waitFor(() =>
    expect(changesOf(server)).toEqual([
      { id: 1, before: ['Northport', 'N1'], after: ['Northport', 'N2'] },
      { id: 2, before: ['Murrow', 'S1'], after: ['Murrow', 'S3'] },
    ]),
  );
});

test('a row that was added to be filled has the cursor in its first blank cell', async () => {
  function Filling() {
    const edits = useRowEdits(table);
    const [fills, setFills] = useState(false);
    return (
      <>
        <button
          type="button"
          onClick={() => {
            edits.addRows([['Gullpoint', null]]);
            setFills(true);
          }}
        >
          Add
        </button>
        <RowsTab table={table} edits={edits} fills={fills} filled={() => setFills(false)} />
      </>
    );
  }
  const { user } = show(<Filling />);
  await user.click(await screen.findByRole('button', { name: 'Add' }));
  const grid = screen.getByRole('grid', { name: 'Rows of Zones' });
  await waitFor(() => expect(grid.getAttribute('aria-activedescendant')).toBe('cell-3-1'));
  expect(document.activeElement).toBe(grid);
});
