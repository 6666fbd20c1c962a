import { useEffect, useRef } from 'react';

/** What is to be done at a press of a key; nothing where it is not for us, and the page then gets it. */
type ActionOf = (event: KeyboardEvent) => (() => void) | undefined;

/** Keys for a whole view, as it was drawn last. */
export function useKeys(actionOf: ActionOf): void {
  const latest = useRef(actionOf);
  useEffect(() => {
    latest.current = actionOf;
  });
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const action = latest.current(event);
      if (!action) return;
      event.preventDefault();
      action();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
