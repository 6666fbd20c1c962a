import Joi from 'joi';
import { documentSchema, type JsonObject } from './json';

/** Names one record of one system. */
export interface RecordRef {
  readonly system: string;
  readonly recordType: string;
  readonly id: string;
}

/** A record as a workspace holds it; `version` is what the system gave to guard against lost updates. */
export interface StoredRecord {
  readonly ref: RecordRef;
  readonly record: JsonObject;
  readonly version?: string;
}

/** Stands for the id of a record in events of rules that start from none. */
export const noRecord = '*';

/** Returns what stands for the id of a record in an event about many: a name of its own, so that several such events go side by side. */
export function manyRecords(name: string): string {
  return `${noRecord}/${name}`;
}

/** Returns whether an event with such an id is about one record, and not about none or many. */
export function isOneRecord({ id }: Pick<RecordRef, 'id'>): boolean {
  return id !== noRecord && !id.startsWith(manyRecords(''));
}

/** Returns one string for one record, for maps and lanes. */
export function refKey(ref: RecordRef): string {
  return `${ref.system}/${ref.recordType}/${ref.id}`;
}

/** Returns the record that a key names; its id may hold anything. */
export function refOf(key: string): RecordRef {
  const [system = '', recordType = '', ...id] = key.split('/');
  return { system, recordType, id: id.join('/') };
}

export const refSchema = Joi.object<RecordRef>({
  system: Joi.string().max(80).required(),
  recordType: Joi.string().max(120).required(),
  id: Joi.string().max(200).required(),
});

export const storedRecordSchema = Joi.object<StoredRecord>({
  ref: refSchema.required(),
  record: documentSchema.required(),
  version: Joi.string().max(200),
});
