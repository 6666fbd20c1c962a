import { useCallback, useEffect, useRef } from 'react';
import { useSearchParams } from 'react-router';

/** Names in the address with their values; an empty one is taken out. */
export type AddressChanges = Readonly<Record<string, string>>;

/**
 * What stands in the address of a view, and a way to put something into it, which is always the same function. It goes by the address as it
 * is and not as it was last drawn, so that of two changes in quick succession neither is lost.
 */
export function useAddress(): readonly [URLSearchParams, (changes: AddressChanges) => void] {
  const [params, setParams] = useSearchParams();
  // With every address it is another one.
  const latest = useRef(setParams);
  useEffect(() => {
    latest.current = setParams;
  });
  const put = useCallback((changes: AddressChanges) => {
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes)) {
      if (value === '') next.delete(name);
      else next.set(name, value);
    }
    latest.current(next, { replace: true });
  }, []);
  return [params, put];
}
