import { isTyping } from '../parts/isTyping';
import { useKeys } from '../parts/useKeys';

interface SheetActions {
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly stepSample: (by: 1 | -1) => void;
  readonly showKeys: () => void;
}

/** The keys of the rule sheet, for its list of keys. */
export const sheetKeys = [
  ['Enter', 'the formula of the next field'],
  ['Alt+↓ Alt+↑', 'next and previous field'],
  ['Esc', 'leave the field at hand'],
  ['Ctrl+Space', 'what can be written here'],
  ['Alt+. Alt+,', 'next and previous sample'],
  ['Ctrl+Z Ctrl+Shift+Z', 'undo and redo, for the whole sheet'],
  ['Ctrl+C Ctrl+V', 'copy the selected lines, paste lines'],
  ['?', 'these keys'],
] as const;

/** Undo and redo on the whole sheet, samples without leaving the row, and the list of keys. */
export function useSheetKeys({ undo, redo, stepSample, showKeys }: SheetActions): void {
  useKeys((event) => {
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && !event.altKey) {
      if (key === 'z') return event.shiftKey ? redo : undo;
      return key === 'y' ? redo : undefined;
    }
    if (event.altKey && (key === '.' || key === ',')) return () => stepSample(key === '.' ? 1 : -1);
    return key === '?' && !isTyping(event.target) ? showKeys : undefined;
  });
}
