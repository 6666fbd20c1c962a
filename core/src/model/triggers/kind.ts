import type { ChangeEvent } from '../event';
import type { RecordType } from '../system';
import type { Trigger } from '../trigger';

/** Whether an event starts a rule, and why not. */
export type Selection =
  | { readonly fires: true }
  | { readonly fires: false; readonly verdict: 'not this kind' | 'not watched'; readonly because: string };

/** The members of a trigger that only some kinds have a use for. */
export type TriggerMember = 'watched' | 'turns' | 'wait' | 'inputs' | 'schedule' | 'once';

/** Something that is wrong with a trigger. */
interface TriggerProblem {
  readonly member: TriggerMember;
  readonly message: string;
}

/** One kind of event that can start a rule: everything that others must know of it. */
export interface TriggerKind<Kind extends string = string> {
  readonly kind: Kind;
  /** As it is said after “when a company …”. */
  readonly words: string;
  /** As it is said of an event that came. */
  readonly past: string;
  /** Whether it tells that a record changed in its system. */
  readonly tellsOfChange: boolean;
  /** The members of a trigger that it has a use for. */
  readonly members: readonly TriggerMember[];
  /** Returns what is wrong with a trigger of this kind. */
  readonly problems?: (trigger: Trigger) => readonly TriggerProblem[];
  /** Whether the trigger lets an event of this kind through; without this it always does. */
  readonly select?: (trigger: Trigger, recordType: RecordType, event: ChangeEvent) => Selection;
}
