import { memo } from 'react';
import { showCell, type KeptRow, type Row, type TableColumn } from '@vast-knot/core';
import type { Cursor, GridActions } from './useGridKeys';

interface GridRowProps {
  /** Its place among the lines that are shown. */
  readonly line: number;
  /** Whether something stands against saving it. */
  readonly wrong: boolean;
  /** Undefined on the line for a new row. */
  readonly row: KeptRow | undefined;
  /** How people count it. */
  readonly number: number | undefined;
  readonly columns: readonly TableColumn[];
  /** The edited cells; null when the row is marked for removal. */
  readonly edited: Row | null | undefined;
  readonly kept: KeptRow | undefined;
  readonly top: number;
  readonly height: number;
  readonly template: string;
  readonly cursor: Cursor | undefined;
  /** First and last column of the selected range on this line. */
  readonly range: string | undefined;
  /** What is being typed into the cell at hand. */
  readonly typing: string | undefined;
  readonly actions: GridActions;
}

/** One row of the sheet. What will change is in the warm accent until it is saved. */
export const GridRow = memo(function GridRow(props: GridRowProps) {
  const {
    line,
    wrong,
    row,
    number,
    columns,
    edited,
    kept,
    top,
    height,
    template,
    cursor,
    range,
    typing,
    actions,
  } = props;
  const [first, last] = range?.split('-').map(Number) ?? [];
  const removed = edited === null;
  return (
    <div
      role="row"
      aria-rowindex={line + 2}
      className={`grid-line row-in-sight ${removed ? 'removed' : ''} ${row && row.id < 0 ? 'added' : ''} ${wrong ? 'wrong-row' : ''}`}
      style={{ top, height, gridTemplateColumns: template }}
    >
      <div role="rowheader" className="grid-cell number">
        {number ?? '+'}
        {wrong && <span className="visually-hidden">, cannot be saved as it is</span>}
      </div>
      {columns.map((column, at) => {
        const value = row?.cells[at];
        const here = cursor?.column === at;
        const selected = first !== undefined && last !== undefined && at >= first && at <= last;
        const changed = edited && row && row.id >= 0 && edited[at] !== kept?.cells[at];
        const classes = [
          'grid-cell',
          here ? 'here' : '',
          selected ? 'selected' : '',
          changed ? 'changed' : '',
        ];
        return (
          <div
            key={column.name}
            id={`cell-${line}-${at}`}
            role="gridcell"
            aria-colindex={at + 2}
            aria-selected={here || selected}
            aria-label={`${column.label} ${showCell(value) || 'blank'}${removed ? ', to be removed' : ''}`}
            className={classes.join(' ')}
            onMouseDown={(event) => actions.point(line, at, event.shiftKey)}
            onDoubleClick={() => actions.beginTyping(showCell(value))}
          >
            {here && typing !== undefined ? (
              <input
                autoFocus
                aria-label={column.label}
                value={typing}
                onChange={(event) => actions.type(event.currentTarget.value)}
                onBlur={actions.commit}
              />
            ) : (
              showCell(value)
            )}
          </div>
        );
      })}
    </div>
  );
});
