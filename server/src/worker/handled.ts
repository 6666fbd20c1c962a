import type { PlannedMessage, Problem, RecordRef, RunResult, WaitingChange } from '@vast-knot/core';

/** What came of a try: the event is done with, or it has to be tried again. */
export type Handled =
  | {
      readonly done: true;
      readonly result: RunResult;
      readonly because: string;
      /** What is sent once the run has ended. */
      readonly messages?: readonly PlannedMessage[];
      /** What rules wait with from then on. */
      readonly waiting?: readonly WaitingChange[];
      /** Somebody stopped it; it can be taken up again. */
      readonly stopped?: true;
    }
  | {
      readonly done: false;
      readonly because: string;
      readonly soon: boolean;
      /** The system that it waits for, and until when; then it was no try. */
      readonly waits?: Problem['waits'];
      /** Records that somebody else changed in between. */
      readonly contended?: readonly RecordRef[];
    };
