import { IconArrowDown, IconArrowUp } from '@tabler/icons-react';
import type { TableColumn } from '@vast-knot/core';
import type { GridSort } from './gridView';

interface GridHeadProps {
  readonly columns: readonly TableColumn[];
  readonly sort: GridSort | undefined;
  readonly onSort: (column: string) => void;
  readonly template: string;
}

/** The columns' names; pressed, one sorts the rows up, down, and not at all. */
export function GridHead({ columns, sort, onSort, template }: GridHeadProps) {
  return (
    <div role="row" className="grid-line head" style={{ gridTemplateColumns: template }} aria-rowindex={1}>
      <div role="columnheader" className="grid-cell number">
        <span className="visually-hidden">Row</span>
      </div>
      {columns.map(({ name, label, type, key }) => {
        const sorted = sort?.column === name;
        const order = sort?.down ? 'descending' : 'ascending';
        const Mark = sort?.down ? IconArrowDown : IconArrowUp;
        return (
          <div key={name} role="columnheader" className="grid-cell" aria-sort={sorted ? order : 'none'}>
            <button type="button" onClick={() => onSort(name)}>
              {label} {key && <span className="key-mark">key</span>} <span className="dim">{type}</span>
              {sorted && <Mark size={13} aria-hidden />}
            </button>
          </div>
        );
      })}
    </div>
  );
}
