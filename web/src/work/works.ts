import { columnOf } from '../rules/column/columnOf';
import { findingsOf } from '../rules/findings/findingsOf';
import { findingsOfType } from '../forms/findingsOfType';
import { suggestionsFor } from '../rules/ledger/suggestionsFor';
import { compareAll, replay, replayAll, verdictChanges } from '../bench/replay';

/** Everything that is computed off the page's thread: an input and the surroundings in, a result out. */
export const works = {
  replay,
  replayAll,
  compareAll,
  verdictChanges,
  findings: findingsOf,
  findingsOfType,
  suggestions: suggestionsFor,
  column: columnOf,
} as const;

export type WorkName = keyof typeof works;
export type WorkInput<N extends WorkName> = Parameters<(typeof works)[N]>[0];
export type WorkOutput<N extends WorkName> = Awaited<ReturnType<(typeof works)[N]>>;
