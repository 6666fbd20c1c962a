import { createContext } from 'react';
import type { Expectation } from '@vast-knot/core';

/** Says what is expected of one field of a record or message; absent where a person may only look. */
export type Expect = (thing: string, path: string, expectation: Expectation | undefined) => void;

export const Expecting = createContext<Expect | undefined>(undefined);
