import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useEffect, useMemo, useState } from 'react';
import { editProblems, type KeptRow, type Row, type TableProblem, type TableView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, tablePath } from '../api/queries';
import { begun, changedTo, stepBack, stepForth } from '../parts/history';
import { keepEdits, keptEdits } from './keptEdits';
import {
  askedChanges,
  editedRows,
  withCells,
  withNewRows,
  withRemoved,
  type CellEdit,
  type Edits,
} from './rowEdits';

const untouched = begun<Edits>(new Map());

export interface RowEdits {
  /** As they were fetched. */
  readonly kept: readonly KeptRow[];
  /** As they would be. */
  readonly rows: readonly KeptRow[];
  readonly edits: Edits;
  readonly problems: readonly TableProblem[];
  readonly setCells: (cells: readonly CellEdit[]) => void;
  readonly addRows: (cells: readonly Row[]) => void;
  /** Cells and new rows in one step of undo, as pasting has it. */
  readonly put: (cells: readonly CellEdit[], rows: readonly Row[]) => void;
  readonly removeRows: (ids: readonly number[]) => void;
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly discard: () => void;
  readonly save: () => void;
  readonly saving: boolean;
  readonly failure: unknown;
}

/** Changes of a table's rows that are not saved yet: each can be undone, and all are saved together or not at all. */
export function useRowEdits(table: TableView): RowEdits {
  const client = useQueryClient();
  const [{ past, now, future }, setHistory] = useState(() => begun(keptEdits(table.name)));
  const kept = useMemo(
    () => table.rows.map((cells, at): KeptRow => ({ id: table.rowIds[at] ?? 0, cells })),
    [table],
  );
  const rows = useMemo(() => editedRows(kept, now), [kept, now]);
  useEffect(() => keepEdits(table.name, now), [table.name, now]);
  useEffect(() => {
    if (now.size === 0) return undefined;
    // The window itself is closed: nothing keeps them then.
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [now]);
  const looked = useDeferredValue(now);
  const problems = useMemo(() => {
    const edited = new Set([...looked].flatMap(([id, cells]) => (cells === null ? [] : [id])));
    const left = editedRows(kept, looked).filter(({ id }) => looked.get(id) !== null);
    return edited.size === 0 ? [] : editProblems(table, left, edited);
  }, [kept, looked, table]);
  const save = useMutation({
    mutationFn: () =>
      ask(`${tablePath(table.name)}/rows`, {
        method: 'POST',
        body: { what: 'Edited', changes: askedChanges(kept, now) },
      }),
    onSuccess: async () => {
      // The edits stay in sight until the rows that hold them are there.
      await client.invalidateQueries({ queryKey: keys.tables });
      setHistory(untouched);
    },
  });
  const change = (make: (edits: Edits) => Edits) => setHistory((known) => changedTo(known, make(known.now)));
  return {
    kept,
    rows,
    edits: now,
    problems,
    setCells: (cells) => change((edits) => withCells(kept, edits, cells)),
    addRows: (cells) => change((edits) => withNewRows(edits, cells)),
    put: (cells, added) => change((edits) => withNewRows(withCells(kept, edits, cells), added)),
    removeRows: (ids) => change((edits) => withRemoved(edits, ids)),
    undo: past.length > 0 ? () => setHistory(stepBack) : undefined,
    redo: future.length > 0 ? () => setHistory(stepForth) : undefined,
    discard: () => setHistory(untouched),
    save: () => save.mutate(),
    saving: save.isPending,
    failure: save.error,
  };
}
