import { useEffect, useRef } from 'react';

/** What is to be done at a press of a key; nothing where it is not for us, and the page then gets it. */
export type DeedOf = (event: KeyboardEvent) => (() => void) | undefined;

/** Keys for a whole view, as it was drawn last. */
export function useKeys(deedOf: DeedOf): void {
  const latest = useRef(deedOf);
  useEffect(() => {
    latest.current = deedOf;
  });
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const deed = latest.current(event);
      if (!deed) return;
      event.preventDefault();
      deed();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
