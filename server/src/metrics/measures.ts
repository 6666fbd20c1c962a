/** What hears of things that are counted. */
export interface Measures {
  /** A run of an event of a system ended, so many seconds after the event came. */
  runEnded(system: string, result: string, seconds: number): void;
  /** Writes to a system came to something: `written`, `failed`. */
  wrote(system: string, state: string, count: number): void;
  /** A system was asked, and answered or not. */
  asked(system: string, answered: boolean, seconds: number): void;
}

const nothing = () => undefined;

/** Counts nothing. */
export const unmeasured: Measures = { runEnded: nothing, wrote: nothing, asked: nothing };
