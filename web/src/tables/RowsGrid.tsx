import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useMemo, type RefObject } from 'react';
import type { TableDefinition } from '@vast-knot/core';
import { GridHead } from './GridHead';
import { GridRow } from './GridRow';
import type { GridSort } from './gridView';
import type { GridKeys } from './useGridKeys';
import type { RowEdits } from './useRowEdits';

interface RowsGridProps {
  readonly table: TableDefinition;
  readonly edits: RowEdits;
  /** Positions of the rows that are shown. */
  readonly shown: readonly number[];
  readonly sort: GridSort | undefined;
  readonly onSort: (column: string) => void;
  /** How many lines there are, the one for a new row included. */
  readonly lines: number;
  readonly keys: GridKeys;
  readonly gridRef: RefObject<HTMLDivElement | null>;
}

const rowHeight = 28;

/** Rows as a sheet: cells are walked with the arrows, typed into, copied from and pasted into. Only what is in sight is drawn. */
export function RowsGrid({ table, edits, shown, sort, onSort, lines, keys, gridRef }: RowsGridProps) {
  const { columns } = table;
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made to be read while rendering
  const virtual = useVirtualizer({
    count: lines,
    getScrollElement: () => gridRef.current,
    estimateSize: () => rowHeight,
    overscan: 4,
  });
  const { cursor } = keys;
  const wrong = useMemo(() => new Set(edits.problems.flatMap(({ rows }) => rows)), [edits.problems]);
  useLayoutEffect(() => {
    if (cursor) virtual.scrollToIndex(cursor.line);
  }, [cursor, virtual]);
  const template = `56px ${columns.map(() => 'minmax(120px, 1fr)').join(' ')}`;
  return (
    <div
      ref={gridRef}
      className="sheet-grid"
      role="grid"
      aria-label={`Rows of ${table.name}`}
      aria-rowcount={lines + 1}
      aria-colcount={columns.length + 1}
      aria-multiselectable
      aria-activedescendant={cursor && `cell-${cursor.line}-${cursor.column}`}
      tabIndex={0}
      onKeyDown={keys.onKeyDown}
      onCopy={keys.onCopy}
      onPaste={keys.onPaste}
      onFocus={keys.onFocus}
    >
      <GridHead columns={columns} sort={sort} onSort={onSort} template={template} />
      <div role="presentation" className="rows" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const position = shown[index];
          return (
            <GridRow
              key={index}
              line={index}
              wrong={position !== undefined && wrong.has(position)}
              row={position === undefined ? undefined : edits.rows[position]}
              number={position === undefined ? undefined : position + 1}
              columns={columns}
              edited={position === undefined ? undefined : edits.edits.get(edits.rows[position]?.id ?? 0)}
              kept={position === undefined ? undefined : edits.kept[position]}
              top={start}
              height={rowHeight}
              template={template}
              cursor={cursor?.line === index ? cursor : undefined}
              range={keys.rangeOn(index)}
              typing={keys.typing !== undefined && cursor?.line === index ? keys.typing : undefined}
              actions={keys.actions}
            />
          );
        })}
      </div>
    </div>
  );
}
