import { useEffect } from 'react';

/** Ctrl+Z and Ctrl+Shift+Z (or Ctrl+Y) undo and redo on the whole sheet. */
export function useSheetKeys(undo: (() => void) | undefined, redo: (() => void) | undefined): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
      const key = event.key.toLowerCase();
      const step = key === 'z' ? (event.shiftKey ? redo : undo) : key === 'y' ? redo : undefined;
      if (!step) return;
      event.preventDefault();
      step();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [undo, redo]);
}
