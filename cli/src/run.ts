import Joi from 'joi';
import {
  printJson,
  changeEventSchema,
  describeOutcome,
  ensembleIn,
  replaySample,
  storedRecordSchema,
  surroundingsIn,
  type ChangeEvent,
  type StoredRecord,
  type WholeBundle,
} from '@vast-knot/core';
import { WrongInput } from './files';
import type { Say } from './say';

const recordsSchema = Joi.array().items(storedRecordSchema);

/** Prints what an event would do to records, as JSON. Returns 1 when something goes wrong in it. */
export async function run(bundle: WholeBundle, event: unknown, records: unknown, say: Say): Promise<number> {
  const sample = {
    id: 'run',
    name: 'run',
    note: '',
    event: checked<ChangeEvent>('The event', changeEventSchema, event),
    records: checked<readonly StoredRecord[]>('The records', recordsSchema, records),
  };
  const surroundings = surroundingsIn(bundle);
  const made = ensembleIn(bundle, surroundings);
  const { report, outcome } = await replaySample(sample, made, surroundings);
  const described = describeOutcome(report);
  const mistakes = made.mistakes.map(
    ({ rule, problems }) => `${rule}: ${problems.map(({ message }) => message).join(' ')}`,
  );
  say(printJson({ ...described, problems: [...described.problems, ...mistakes] }, 2));
  return outcome.problems.length > 0 || made.mistakes.length > 0 ? 1 : 0;
}

function checked<T>(what: string, schema: Joi.Schema, json: unknown): T {
  const { error } = schema.validate(json, { abortEarly: false, convert: false });
  if (!error) return json as T;
  const places = error.details.map(({ path, message }) => `  at ${path.join('/')}: ${message}.`);
  throw new WrongInput(`${what} cannot be used:\n${places.join('\n')}`);
}
