import Joi from 'joi';
import { documentSchema, type JsonObject } from './json';
import { refSchema, type RecordRef } from './record';
import { triggerKinds } from './triggers';

/** Everything that can start a rule: changes of records, a person's request, a clock, a row of a file, a form answer. */
export type EventKind = (typeof triggerKinds)[number]['kind'];
export const eventKinds: readonly EventKind[] = triggerKinds.map(({ kind }) => kind);

/** What systems tell of their records. */
export const changeKinds: readonly EventKind[] = triggerKinds
  .filter(({ tellsOfChange }) => tellsOfChange)
  .map(({ kind }) => kind);

/**
 * Returns whether an event tells that its record just changed in its system. Requests, rows, answers and the clock do not; nor
 * does a change that is told once more to one rule, after a wait or because somebody runs it again.
 */
export function tellsOfChange({
  kind,
  rule,
  undoes,
}: Pick<ChangeEvent, 'kind' | 'rule' | 'undoes'>): boolean {
  return rule === undefined && undoes === undefined && changeKinds.includes(kind);
}

/** What a person entered in place of what a rule would have filled in, for one record that it creates. */
export interface Reviewed {
  /** The place of the creating action among those of the rule. */
  readonly action: number;
  /** Which of the records of that action, counted from 0. */
  readonly at: number;
  /** What the form held when it was saved, by dotted path. */
  readonly values: JsonObject;
  /** Whether the person left this record out. */
  readonly leftOut?: true;
}

/** How the lines of a rule write to the targets of a record that exists. */
export type Existing = 'as its lines say' | 'only blanks';

/** What is taken back: what a run wrote, or a part of it. */
export interface Undoes {
  readonly run: string;
  /** Why, in the words of who asked for it. */
  readonly because: string;
  readonly by: string;
  /** Only these records, by `system/type/id`. */
  readonly only?: readonly string[];
  /** All but these records. */
  readonly without?: readonly string[];
  /** Only what this rule wrote. */
  readonly rule?: string;
  /** What goes back starts rules, as if somebody had changed it in its system. */
  readonly starts?: true;
}

/** Records of a look that are written together. */
export interface Brings {
  /** The id of the look. */
  readonly look: string;
  /** Their places in the look. */
  readonly records: readonly string[];
}

/** A change event after its envelope has been read. */
export interface ChangeEvent {
  readonly id: string;
  readonly source: string;
  readonly kind: EventKind;
  readonly ref: RecordRef;
  /** Instant of the change, ISO 8601 with offset. `NOW()` is this instant. */
  readonly time: string;
  readonly record: JsonObject;
  readonly before?: JsonObject;
  /** Dotted paths of the fields that changed, once derived. */
  readonly changed: readonly string[];
  /** What was asked of the person who requested the rule; formulas read it as `input.…`. */
  readonly input?: JsonObject;
  /** The one rule that it is for: events of requests, clocks and waits start no other. */
  readonly rule?: string;
  /**
   * The record exists and is taken as if it had just changed: every field counts as changed, and how it was before is not known. With
   * `only blanks` its lines fill in what is blank and leave everything else.
   */
  readonly existing?: Existing;
  /** No rule is started: what another run wrote is taken back. */
  readonly undoes?: Undoes;
  /** Records that exist are written together, as a look showed it: the event is about many of its type. */
  readonly brings?: Brings;
  /** Who edited what it tells: rules get that, and the record is not read again. */
  readonly edited?: string;
  /** Forms that a person has reviewed; where a rule wants a review, only what is here is created. */
  readonly reviewed?: readonly Reviewed[];
  /** How many events were folded into this one while the rule waited; absent where it did not wait. */
  readonly folded?: number;
  /**
   * When the record was read from its system, where it is not as the event told it: the event held only a part, was late, or is dealt
   * with in a later try.
   */
  readonly readAt?: string;
}

/** The forms of one request. */
export const reviewedSchema = Joi.array()
  .items(
    Joi.object<Reviewed>({
      action: Joi.number().integer().min(0).required(),
      at: Joi.number().integer().min(0).required(),
      values: documentSchema.required(),
      leftOut: Joi.valid(true),
    }),
  )
  .max(1000);

export const changeEventSchema = Joi.object<ChangeEvent>({
  id: Joi.string().max(200).required(),
  source: Joi.string().max(500).required(),
  kind: Joi.valid(...eventKinds).required(),
  ref: refSchema.required(),
  time: Joi.string().isoDate().max(60).required(),
  record: documentSchema.required(),
  before: documentSchema,
  changed: Joi.array().items(Joi.string().max(200)).max(2000).required(),
  input: documentSchema,
  rule: Joi.string().guid(),
  existing: Joi.valid('as its lines say', 'only blanks'),
  edited: Joi.string().max(200),
  reviewed: reviewedSchema,
  folded: Joi.number().integer().min(1),
  readAt: Joi.string().isoDate().max(60),
});
