import { isLongNumber, scalarText, type Json, type KeptRow, type TableColumn } from '@vast-knot/core';

/** A column by which rows are sorted; a leading `-` in the address turns the order round. */
export interface GridSort {
  readonly column: string;
  readonly down: boolean;
}

export function readSort(text: string | null): GridSort | undefined {
  if (!text) return undefined;
  return text.startsWith('-') ? { column: text.slice(1), down: true } : { column: text, down: false };
}

/** Rows, as they are and as they were fetched, and which of them are wanted in which order. */
interface RowsWanted {
  readonly rows: readonly KeptRow[];
  readonly kept: readonly KeptRow[];
  readonly columns: readonly TableColumn[];
  readonly search: string;
  readonly sort: GridSort | undefined;
}

/**
 * Positions of the rows that hold a text, in the order that was asked for. They are sorted as they were fetched, so that a
 * row does not run away while it is edited; new rows stand at the end.
 */
export function shownPositions({ rows, kept, columns, search, sort }: RowsWanted): readonly number[] {
  const wanted = search.toLowerCase();
  const at = columns.findIndex(({ name }) => name === sort?.column);
  const positions: number[] = [];
  rows.forEach(({ id, cells }, position) => {
    // A new row stays in sight whatever is searched for.
    if (
      id < 0 ||
      wanted === '' ||
      cells.some((cell) =>
        String(cell ?? '')
          .toLowerCase()
          .includes(wanted),
      )
    )
      positions.push(position);
  });
  if (!sort || at < 0) return positions;
  const key = (position: number) => kept[position]?.cells[at];
  return positions.sort((a, b) => {
    if (a >= kept.length || b >= kept.length) return a - b;
    return compareCells(key(a), key(b)) * (sort.down ? -1 : 1) || a - b;
  });
}

const words = new Intl.Collator('en', { numeric: true });

/** Blanks last, numbers by size, texts as people read them. */
function compareCells(a: Json | undefined, b: Json | undefined): number {
  const blankA = a === null || a === undefined || a === '';
  const blankB = b === null || b === undefined || b === '';
  if (blankA || blankB) return Number(blankA) - Number(blankB);
  const [x, y] = [scalarText(a), scalarText(b)];
  return isNumber(a) && isNumber(b) ? Number(x) - Number(y) : words.compare(x, y);
}

const isNumber = (cell: unknown): boolean => typeof cell === 'number' || isLongNumber(cell);
