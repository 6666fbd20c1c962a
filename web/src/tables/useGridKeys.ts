import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
} from 'react';
import { readCell, showCell, type Json, type TableColumn } from '@vast-knot/core';
import { cellsFromText, withoutHead, type CellEdit } from './rowEdits';
import type { RowEdits } from './useRowEdits';

export interface Cursor {
  readonly line: number;
  readonly column: number;
}

/** What a press on a cell does; the same functions for all rows. */
export interface GridActions {
  readonly point: (line: number, column: number, extend: boolean) => void;
  readonly beginTyping: (text: string) => void;
  readonly type: (text: string) => void;
  readonly commit: () => void;
}

interface Setup {
  readonly columns: readonly TableColumn[];
  readonly edits: RowEdits;
  readonly shown: readonly number[];
  readonly mayChange: boolean;
  readonly lines: number;
}

const page = 20;

/** The cell at hand, the range around it, what is typed into it, and the keys that do all that. */
export function useGridKeys(setup: Setup) {
  const [cursor, setCursor] = useState<Cursor>();
  const [anchor, setAnchor] = useState<Cursor>();
  const [typing, setTyping] = useState<string>();
  const latest = useRef({ ...setup, cursor, typing });
  useEffect(() => {
    latest.current = { ...setup, cursor, typing };
  });
  const { columns, edits, shown, mayChange, lines } = setup;

  const go = useCallback((line: number, column: number, extend: boolean) => {
    const last = latest.current;
    const to = {
      line: Math.max(0, Math.min(line, last.lines - 1)),
      column: Math.max(0, Math.min(column, last.columns.length - 1)),
    };
    setCursor(to);
    if (!extend) setAnchor(to);
  }, []);
  const actions = useMemo((): GridActions => {
    const commit = () => {
      const { cursor: at, typing: text, edits: held, shown: positions, columns: all } = latest.current;
      setTyping(undefined);
      const column = at && all[at.column];
      if (!at || text === undefined || !column) return;
      latest.current.typing = undefined;
      const value = readCell(column.type, text);
      const row = held.rows[positions[at.line] ?? -1];
      if (row) held.setCells([{ id: row.id, column: at.column, value }]);
      else if (value !== null)
        held.addRows([all.map((_each, index) => (index === at.column ? value : null))]);
    };
    return {
      point: (line, column, extend) => {
        commit();
        go(line, column, extend);
      },
      beginTyping: (text) => latest.current.mayChange && setTyping(text),
      type: setTyping,
      commit,
    };
  }, [go]);

  const range = cursor && anchor && spanOf(cursor, anchor);
  const selectedRows = () =>
    range ? shown.slice(range.top, range.bottom + 1).flatMap((position) => edits.rows[position] ?? []) : [];
  const clear = () => {
    if (!range) return;
    const blank: CellEdit[] = selectedRows().flatMap(({ id }) =>
      columns
        .slice(range.left, range.right + 1)
        .map((_column, at) => ({ id, column: range.left + at, value: null })),
    );
    edits.setCells(blank);
  };

  const onKeyDown = (event: KeyboardEvent<HTMLElement>) => {
    if (!cursor) return;
    const { key } = event;
    const control = event.ctrlKey || event.metaKey;
    const done = (act: (() => void) | undefined) => {
      if (!act) return;
      event.preventDefault();
      event.stopPropagation();
      act();
    };
    if (typing !== undefined) {
      const container = event.currentTarget;
      const leave = (line: number, column: number) => () => {
        actions.commit();
        go(cursor.line + line, cursor.column + column, false);
        container.focus();
      };
      if (key === 'Enter') done(leave(event.shiftKey ? -1 : 1, 0));
      else if (key === 'Tab') done(leave(0, event.shiftKey ? -1 : 1));
      else if (key === 'Escape') {
        done(() => {
          // Nothing is left to be entered when the cell loses the cursor.
          latest.current.typing = undefined;
          setTyping(undefined);
          container.focus();
        });
      }
      return;
    }
    const moves: Readonly<Record<string, readonly [number, number]>> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageDown: [page, 0],
      PageUp: [-page, 0],
      Home: [control ? -lines : 0, -columns.length],
      End: [control ? lines : 0, columns.length],
    };
    const move = moves[key];
    if (move) return done(() => go(cursor.line + move[0], cursor.column + move[1], event.shiftKey));
    if (!mayChange) return;
    if (control) {
      const lower = key.toLowerCase();
      if (lower === 'z') done(event.shiftKey ? edits.redo : edits.undo);
      else if (lower === 'y') done(edits.redo);
      else if (lower === 's') done(edits.save);
      else if (key === 'Delete' || key === '-')
        done(() => edits.removeRows(selectedRows().map(({ id }) => id)));
      return;
    }
    const row = edits.rows[shown[cursor.line] ?? -1];
    if (key === 'Enter' || key === 'F2') done(() => setTyping(showCell(row?.cells[cursor.column])));
    else if (key === 'Delete' || key === 'Backspace') done(clear);
    else if (key.length === 1 && !event.altKey) done(() => setTyping(key));
  };

  const onCopy = (event: ClipboardEvent) => {
    if (!range || typing !== undefined) return;
    const text = selectedRows()
      .map(({ cells }) =>
        cells
          .slice(range.left, range.right + 1)
          .map(showCell)
          .join('\t'),
      )
      .join('\n');
    event.clipboardData.setData('text/plain', text);
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent) => {
    if (!cursor || !mayChange || typing !== undefined) return;
    event.preventDefault();
    const pasted = cellsFromText(event.clipboardData.getData('text/plain'));
    const cells = withoutHead(pasted, columns.slice(cursor.column));
    const values = cells.map((line) => valuesFrom(line, columns, cursor.column));
    const start = range?.top ?? cursor.line;
    const changed: CellEdit[] = [];
    const added: Json[][] = [];
    values.forEach((line, at) => {
      const row = edits.rows[shown[start + at] ?? -1];
      if (row) changed.push(...line.map(({ column, value }) => ({ id: row.id, column, value })));
      else {
        added.push(columns.map((_each, index) => line.find(({ column }) => column === index)?.value ?? null));
      }
    });
    edits.put(changed, added);
  };
  return {
    cursor,
    typing,
    actions,
    onKeyDown,
    onCopy,
    onPaste,
    onFocus: () => cursor ?? go(0, 0, false),
    go: (line: number, column: number) => go(line, column, false),
    rangeOn: (line: number) =>
      range && line >= range.top && line <= range.bottom ? `${range.left}-${range.right}` : undefined,
    removeSelected: () => edits.removeRows(selectedRows().map(({ id }) => id)),
  };
}

function spanOf(a: Cursor, b: Cursor) {
  return {
    top: Math.min(a.line, b.line),
    bottom: Math.max(a.line, b.line),
    left: Math.min(a.column, b.column),
    right: Math.max(a.column, b.column),
  };
}

/** Pasted texts as values of the columns from one on; what goes beyond the last column is left out. */
function valuesFrom(texts: readonly string[], columns: readonly TableColumn[], from: number) {
  return texts.flatMap((text, at) => {
    const column = columns[from + at];
    return column ? [{ column: from + at, value: readCell(column.type, text) }] : [];
  });
}

export type GridKeys = ReturnType<typeof useGridKeys>;
