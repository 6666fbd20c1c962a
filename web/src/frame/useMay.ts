import { createContext, useContext } from 'react';
import type { Right } from '@vast-knot/core';

const Rights = createContext<ReadonlySet<Right>>(new Set());

/** Tells what is inside what the person who is signed in may do. */
export const RightsProvider = Rights.Provider;

/** Returns all that the person who is signed in may do. */
export function useRights(): ReadonlySet<Right> {
  return useContext(Rights);
}

/** Returns whether the person who is signed in may do a thing. The server asks for the same right. */
export function useMay(right: Right): boolean {
  return useContext(Rights).has(right);
}
