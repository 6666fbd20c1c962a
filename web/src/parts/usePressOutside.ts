import { useEffect, type RefObject } from 'react';

/** Closes what is open when something outside of it is pressed. Lists of choices are drawn apart from what they belong to, and are within. */
export function usePressOutside(
  open: boolean,
  opener: RefObject<HTMLElement | null>,
  close: () => void,
): void {
  useEffect(() => {
    if (!open) return;
    const press = ({ target }: MouseEvent) => {
      const within =
        target instanceof Element &&
        (target.closest('[data-portal], .phrase-editor') !== null || opener.current?.contains(target));
      if (!within) close();
    };
    document.addEventListener('mousedown', press);
    return () => document.removeEventListener('mousedown', press);
  }, [open, opener, close]);
}
