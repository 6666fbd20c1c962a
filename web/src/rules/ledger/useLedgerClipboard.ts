import { useEffect, useState } from 'react';
import type { LeafField, LedgerAction } from '@vast-knot/core';
import { takesText } from '../../parts/isTyping';
import { count } from '../../parts/time';
import { pasteLines } from './lineEdits';
import { linesFromText, linesToText } from './linesText';

interface Setup {
  readonly action: LedgerAction;
  readonly leaves: readonly LeafField[];
  readonly setAction: (change: (action: LedgerAction) => LedgerAction) => void;
  readonly selected: ReadonlySet<string>;
  readonly on: boolean;
}

/** Copies the selected lines and pastes lines, from this rule, another one, or a spreadsheet. Says what came of it. */
export function useLedgerClipboard({ action, leaves, setAction, selected, on }: Setup) {
  const [said, setSaid] = useState<string>();
  const lines = action.lines.filter(({ field }) => selected.has(field));
  useEffect(() => {
    if (!on) return;
    const copy = (event: ClipboardEvent) => {
      if (lines.length === 0 || takesText(event.target) || !window.getSelection()?.isCollapsed) return;
      event.clipboardData?.setData('text/plain', linesToText(lines));
      event.preventDefault();
      setSaid(`${count(lines.length, 'line')} copied.`);
    };
    const paste = (event: ClipboardEvent) => {
      if (takesText(event.target)) return;
      const pasted = linesFromText(event.clipboardData?.getData('text/plain') ?? '');
      if (!pasted) return;
      event.preventDefault();
      const { taken, unknown } = pasteLines(action, pasted, leaves);
      if (taken.length > 0) setAction((known) => pasteLines(known, pasted, leaves).action);
      const rest = unknown.length === 0 ? '' : ` The target cannot be given ${unknown.join(', ')}.`;
      setSaid(`${count(taken.length, 'line')} pasted.${rest}`);
    };
    document.addEventListener('copy', copy);
    document.addEventListener('paste', paste);
    return () => {
      document.removeEventListener('copy', copy);
      document.removeEventListener('paste', paste);
    };
  });
  return {
    said,
    copy: () => {
      void navigator.clipboard
        .writeText(linesToText(lines))
        .then(() => setSaid(`${count(lines.length, 'line')} copied.`))
        .catch(() => setSaid('The browser does not let this page copy; press Ctrl+C instead.'));
    },
  };
}
