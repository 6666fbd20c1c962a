import { useMemo, useRef, useState, useEffect } from 'react';
import type { Suggestion, LedgerAction, WritePolicy } from '@vast-knot/core';
import type { RowActions } from './LedgerRow';
import { removeLines, setLine, setPolicies, withoutBlankLines } from './lineEdits';

interface Setup {
  readonly at: number;
  readonly setAction: (change: (action: LedgerAction) => LedgerAction, part?: string) => void;
  readonly setActive: (field: string | undefined) => void;
  readonly showMany: (field: string) => void;
  /** The fields as they are shown. */
  readonly order: readonly string[];
}

/** Everything that is done with the rows of a ledger, and which of them are selected. */
export function useRowActions({ at, setAction, setActive, showMany, order }: Setup) {
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const shown = useRef(order);
  const lastSelected = useRef<string>(undefined);
  useEffect(() => {
    shown.current = order;
  });
  const row = useMemo((): RowActions => {
    const activate = (field: string | undefined) => {
      setAction(withoutBlankLines, 'blank lines');
      setActive(field);
    };
    return {
      set: (field, change) =>
        setAction(
          (known) => setLine(known, field, change),
          `line ${at}/${field}/${Object.keys(change).join()}`,
        ),
      activate,
      move: (field, step) => {
        const next = shown.current[shown.current.indexOf(field) + step];
        activate(step === 0 ? undefined : next);
      },
      select: (field, extend) => {
        const from = shown.current.indexOf(lastSelected.current ?? field);
        const to = shown.current.indexOf(field);
        const range = extend ? shown.current.slice(Math.min(from, to), Math.max(from, to) + 1) : [];
        lastSelected.current = field;
        setSelected((known) => {
          const next = new Set([...known, ...range]);
          if (known.has(field) && !extend) next.delete(field);
          else next.add(field);
          return next;
        });
      },
      remove: (field) => {
        setActive(undefined);
        setAction((known) => removeLines(known, new Set([field])));
      },
      showMany,
      accept: ({ field, formula }) => setAction((known) => setLine(known, field, { formula })),
    };
  }, [at, setAction, setActive, showMany]);
  return {
    row,
    selected,
    clear: () => setSelected(new Set()),
    removeSelected: () => {
      setAction((known) => removeLines(known, selected));
      setSelected(new Set());
    },
    setPolicy: (policy: WritePolicy) => setAction((known) => setPolicies(known, selected, policy)),
    acceptAll: (suggestions: readonly Suggestion[]) =>
      setAction((known) =>
        suggestions.reduce((action, { field, formula }) => setLine(action, field, { formula }), known),
      ),
  };
}
