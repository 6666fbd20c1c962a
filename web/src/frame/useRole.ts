import { createContext, useContext } from 'react';

const MayChange = createContext(false);

/** Tells what is inside whether the person who is signed in may change things. */
export const MayChangeProvider = MayChange.Provider;

/** Whether the person may change things. */
export function useMayChange(): boolean {
  return useContext(MayChange);
}
