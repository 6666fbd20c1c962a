import Joi from 'joi';
import { expectedSchema, type Expected } from './expected';
import { changeEventSchema, type ChangeEvent } from './event';
import { refKey, storedRecordSchema, type StoredRecord } from './record';

/** A kept change event with the records it met, so that a replay needs no system to be reachable. */
export interface Sample {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  /** Words to find it by. */
  readonly tags?: readonly string[];
  readonly event: ChangeEvent;
  readonly records: readonly StoredRecord[];
  /** The fields whose values are masked, as `system/type/path`: what is read for it later is masked there as well. */
  readonly masked?: readonly string[];
  /** What its outcome must be; absent while nobody has said. */
  readonly expected?: Expected;
}

/** Adds the triggering record: it belongs to a sample even when no rule read it, so that an edited rule can write to it. */
export function withOwnRecord(
  { ref, record, kind }: ChangeEvent,
  met: readonly StoredRecord[],
): readonly StoredRecord[] {
  const there = met.some((stored) => refKey(stored.ref) === refKey(ref));
  return there || kind === 'deleted' ? met : [{ ref, record }, ...met];
}

/** What is the same for a sample wherever it is kept. */
const parts = {
  name: Joi.string().trim().min(1).max(120).required(),
  note: Joi.string().allow('').max(2000).required(),
  tags: Joi.array().items(Joi.string().trim().min(1).max(40)).unique().max(20),
  event: changeEventSchema.required(),
  records: Joi.array().items(storedRecordSchema).max(10_000).required(),
  masked: Joi.array().items(Joi.string().max(400)).max(1000),
  expected: expectedSchema,
};

export const sampleSchema = Joi.object<Sample>({ id: Joi.string().guid().required(), ...parts });
/** A sample that has no id yet. */
export const newSampleSchema = Joi.object<Omit<Sample, 'id'>>(parts);
