import { useKeys } from '../parts/useKeys';

interface SheetActions {
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly stepSample: (by: 1 | -1) => void;
}

/** Undo and redo on the whole sheet, and samples without leaving the row; they are told by `help/places`. */
export function useSheetKeys({ undo, redo, stepSample }: SheetActions): void {
  useKeys((event) => {
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && !event.altKey) {
      if (key === 'z') return event.shiftKey ? redo : undo;
      return key === 'y' ? redo : undefined;
    }
    if (event.altKey && (key === '.' || key === ',')) return () => stepSample(key === '.' ? 1 : -1);
    return undefined;
  });
}
