import { ActionIcon, Button, FileButton, Menu, TextInput, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp, IconSearch } from '@tabler/icons-react';
import { useHotkeys } from '@mantine/hooks';
import { useEffect, useMemo, useRef, useState } from 'react';
import { writeTableCsv, type TableView } from '@vast-knot/core';
import { sentenceOf } from '../api/client';
import { tablePath } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { readSort, shownPositions } from './gridView';
import { ImportPanel } from './ImportPanel';
import { RowsGrid } from './RowsGrid';
import { useGridKeys } from './useGridKeys';
import type { RowEdits } from './useRowEdits';
import { useAddress } from '../parts/useAddress';
import { giveFile } from '../parts/giveFile';

interface RowsTabProps {
  readonly table: TableView;
  readonly edits: RowEdits;
  /** Whether a row was just added that is to be filled: the cursor goes to its first blank cell. */
  readonly fills?: boolean;
  /** Hears that it went there. */
  readonly filled?: () => void;
}

const nothing = () => undefined;

/** The rows of a table, to be searched, sorted, edited, and exchanged with files. */
export function RowsTab({ table, edits, fills = false, filled = nothing }: RowsTabProps) {
  const mayChange = useMay('tables.change');
  const [params, put] = useAddress();
  const [file, setFile] = useState<{ readonly name: string; readonly text: string }>();
  const search = params.get('search') ?? '';
  const sortText = params.get('sort');
  const sort = useMemo(() => readSort(sortText), [sortText]);
  const shown = useMemo(
    () => shownPositions({ rows: edits.rows, kept: edits.kept, columns: table.columns, search, sort }),
    [edits.rows, edits.kept, table.columns, search, sort],
  );
  // The line below the last row takes a new one.
  const lines = shown.length + (mayChange ? 1 : 0);
  const keys = useGridKeys({ columns: table.columns, edits, shown, mayChange, lines });
  const onSort = (column: string) =>
    put({ sort: sort?.column !== column ? column : sort.down ? '' : `-${column}` });
  const take = async (chosen: File | null) => {
    if (chosen) setFile({ name: chosen.name, text: await chosen.text() });
  };
  const { edits: unsaved, save, problems } = edits;
  // From wherever one is on the page, also out of the field for searching.
  useHotkeys([['mod+S', () => unsaved.size > 0 && problems.length === 0 && save()]], []);
  const grid = useRef<HTMLDivElement>(null);
  /** Leads to a row, and to a cell of it where one is named. */
  const goTo = (position: number, column: string | undefined) => {
    const line = shown.indexOf(position);
    if (line < 0) put({ search: '' });
    grid.current?.focus();
    keys.go(
      line < 0 ? position : line,
      Math.max(
        0,
        table.columns.findIndex(({ name }) => name === column),
      ),
    );
  };
  const { go } = keys;
  const added = shown.findLastIndex((position) => (edits.rows[position]?.id ?? 0) < 0);
  const blank = edits.rows[shown[added] ?? -1]?.cells.findIndex((cell) => cell === null) ?? -1;
  useEffect(() => {
    if (!fills) return;
    // Whoever takes the focus without a cell at hand begins at the first.
    grid.current?.focus();
    go(added, Math.max(0, blank));
    filled();
  }, [fills, filled, go, added, blank]);
  if (file) return <ImportPanel table={table} file={file} onClose={() => setFile(undefined)} />;
  return (
    <div className="table-rows">
      <div className="ledger-tools">
        <TextInput
          aria-label="Search the rows"
          placeholder="Search the rows"
          leftSection={<IconSearch size={13} />}
          value={search}
          onChange={(event) => put({ search: event.currentTarget.value })}
          w={190}
        />
        {search !== '' && <span className="small dim">{count(shown.length, 'row')}</span>}
        <span className="end">
          {mayChange && (
            <>
              <Tooltip label="Undo (Ctrl+Z)">
                <ActionIcon variant="subtle" aria-label="Undo" disabled={!edits.undo} onClick={edits.undo}>
                  <IconArrowBackUp size={16} />
                </ActionIcon>
              </Tooltip>
              <Tooltip label="Redo (Ctrl+Shift+Z)">
                <ActionIcon variant="subtle" aria-label="Redo" disabled={!edits.redo} onClick={edits.redo}>
                  <IconArrowForwardUp size={16} />
                </ActionIcon>
              </Tooltip>
              <Tooltip label="Ctrl+Delete">
                <Button variant="subtle" color="rust" disabled={!keys.cursor} onClick={keys.removeSelected}>
                  Remove rows
                </Button>
              </Tooltip>
              <FileButton accept="text/csv,.csv" onChange={(chosen) => void take(chosen)}>
                {(props) => (
                  <Button {...props} variant="default">
                    Import CSV …
                  </Button>
                )}
              </FileButton>
            </>
          )}
          {unsaved.size === 0 ? (
            <ExportCsv path={tablePath(table.name)} />
          ) : (
            <Tooltip label="With the changes that are not saved yet">
              <Button variant="default" onClick={() => exportEdited(table, edits)}>
                Export CSV
              </Button>
            </Tooltip>
          )}
        </span>
      </div>
      {edits.edits.size > 0 && <UnsavedBar edits={edits} goTo={goTo} />}
      <RowsGrid
        table={table}
        edits={edits}
        shown={shown}
        sort={sort}
        onSort={onSort}
        lines={lines}
        keys={keys}
        gridRef={grid}
      />
    </div>
  );
}

/** What is not saved yet, what stands against saving it, and saving. */
function UnsavedBar({
  edits,
  goTo,
}: {
  readonly edits: RowEdits;
  readonly goTo: (position: number, column: string | undefined) => void;
}) {
  const { problems, failure } = edits;
  return (
    <div className="bar" role="status">
      <strong>{count(edits.edits.size, 'row')} changed and not saved</strong>
      <Button color="ember" disabled={problems.length > 0} loading={edits.saving} onClick={edits.save}>
        Save (Ctrl+S)
      </Button>
      <Button variant="subtle" onClick={edits.discard}>
        Drop the changes
      </Button>
      {failure !== null && failure !== undefined && (
        <span className="value wrong">{sentenceOf(failure)}</span>
      )}
      {problems.slice(0, 4).map(({ message, rows, column }) => (
        <button
          key={message}
          type="button"
          className="plain value wrong"
          title="Go to the row"
          onClick={() => goTo(rows.at(-1) ?? 0, column)}
        >
          {message}
        </button>
      ))}
      {problems.length > 4 && <span className="value wrong">and {problems.length - 4} more</span>}
    </div>
  );
}

/** Gives a file with the rows as they are edited, without those that are marked for removal. */
function exportEdited(table: TableView, { rows, edits }: RowEdits): void {
  const left = rows.filter(({ id }) => edits.get(id) !== null).map(({ cells }) => cells);
  giveFile(`${table.name}.csv`, 'text/csv', writeTableCsv(table, left));
}

/** The rows as a file: as they are, or so that a spreadsheet runs no cell. */
function ExportCsv({ path }: { readonly path: string }) {
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Button variant="default">Export CSV</Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item component="a" href={`/api${path}/csv`}>
          As the rows are, to be taken in again
        </Menu.Item>
        <Menu.Item component="a" href={`/api${path}/csv?guard=yes`}>
          For a spreadsheet: no cell is run as a formula
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
