import Joi from 'joi';
import { eventKinds, type EventKind } from './event';
import { fieldName } from './names';
import { fieldSchema, type Field } from './system';

/** What starts a rule. An update starts it only when a watched field changed; no watched fields means any field. */
export interface Trigger {
  readonly system: string;
  readonly recordType: string;
  readonly kinds: readonly EventKind[];
  /** Dotted paths; a path of an object watches all inside it. */
  readonly watched: readonly string[];
  /** Narrows watched fields: of a field that has turns, only these changes count. */
  readonly turns?: readonly ValueChange[];
  /** Seconds during which further changes of the same record are folded into one. */
  readonly wait?: number;
  /** What is asked of the person who requests the rule. */
  readonly inputs?: readonly Field[];
  /** When a scheduled rule goes through the records of its type. */
  readonly schedule?: Schedule;
  /** It is done once for all of them, by the clock or when a person asks for it: it starts from no record, and its finds reach all. */
  readonly once?: true;
}

/** A change of one field that counts: from a value, to a value, or both. */
export interface ValueChange {
  readonly field: string;
  readonly from?: string;
  readonly to?: string;
}

/** Times of day in a zone, on some days of the week (1 is Monday) or on all. */
export interface Schedule {
  /** `06:00`, on the clock of the zone. */
  readonly at: string;
  /** A zone of the IANA database: `Europe/London`. */
  readonly zone: string;
  /** Days of the week as ISO 8601 counts them, 1 for Monday; none means every day. */
  readonly days: readonly number[];
}

/** A rule waits a day at most. */
const longestWait = 86_400;

const valueChangeSchema = Joi.object<ValueChange>({
  field: fieldName.required(),
  from: Joi.string().allow('').max(1000),
  to: Joi.string().allow('').max(1000),
}).or('from', 'to');

export const scheduleSchema = Joi.object<Schedule>({
  at: Joi.string()
    .pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day such as 06:00')
    .required(),
  zone: Joi.string().max(60).required(),
  days: Joi.array().items(Joi.number().integer().min(1).max(7)).unique().required(),
});

export const triggerSchema = Joi.object<Trigger>({
  system: fieldName.required(),
  recordType: fieldName.required(),
  kinds: Joi.array()
    .items(Joi.valid(...eventKinds))
    .min(1)
    .unique()
    .required(),
  watched: Joi.array().items(fieldName).unique().max(500).required(),
  turns: Joi.array().items(valueChangeSchema).max(100),
  wait: Joi.number().integer().min(1).max(longestWait),
  inputs: Joi.array().items(fieldSchema).max(30).unique('name'),
  schedule: scheduleSchema,
  once: Joi.valid(true),
});
