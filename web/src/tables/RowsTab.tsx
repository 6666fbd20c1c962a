import { ActionIcon, Button, FileButton, TextInput, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp, IconSearch } from '@tabler/icons-react';
import { useMemo, useState } from 'react';
import type { TableView } from '@vast-knot/core';
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

/** The rows of a table, to be searched, sorted, edited, and exchanged with files. */
export function RowsTab({ table, edits }: { readonly table: TableView; readonly edits: RowEdits }) {
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
          <Button variant="default" component="a" href={`/api${tablePath(table.name)}/csv`}>
            Export CSV
          </Button>
        </span>
      </div>
      {edits.edits.size > 0 && <UnsavedBar edits={edits} />}
      <RowsGrid
        table={table}
        edits={edits}
        shown={shown}
        sort={sort}
        onSort={onSort}
        lines={lines}
        keys={keys}
      />
    </div>
  );
}

/** What is not saved yet, what stands against saving it, and saving. */
function UnsavedBar({ edits }: { readonly edits: RowEdits }) {
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
      {problems.slice(0, 4).map(({ message }) => (
        <span key={message} className="value wrong">
          {message}
        </span>
      ))}
      {problems.length > 4 && <span className="value wrong">and {problems.length - 4} more</span>}
    </div>
  );
}
