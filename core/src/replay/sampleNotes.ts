import { nearestName } from '../formula/nearest';
import { refKey, type RecordRef } from '../model/record';
import { leafFields, type Field, type System } from '../model/system';
import { isJsonObject, type JsonObject } from '../model/json';
import type { SampleDraft } from './readSamples';

/**
 * Returns what in samples does not fit the systems they are about, as sentences: record types and fields that are not there. A sample is
 * kept all the same, for a system may send more than it says; a record type that is unknown starts no rule.
 */
export function sampleNotes(drafts: readonly SampleDraft[], systems: readonly System[]): readonly string[] {
  const notes = drafts.flatMap(({ event, records = [] }) => [
    ...notesOn(event.ref, event.record, systems),
    ...(event.before ? notesOn(event.ref, event.before, systems) : []),
    ...records.flatMap(({ ref, record }) => notesOn(ref, record, systems)),
  ]);
  return [...new Set(notes)];
}

function notesOn(ref: RecordRef, record: JsonObject, systems: readonly System[]): readonly string[] {
  const system = systems.find(({ key }) => key === ref.system);
  if (!system)
    return [
      `There is no system “${ref.system}”${guess(
        ref.system,
        systems.map(({ key }) => key),
      )}.`,
    ];
  const type = system.recordTypes.find(({ name }) => name === ref.recordType);
  if (!type) {
    const names = system.recordTypes.map(({ name }) => name);
    return [`${system.name} has no record type “${ref.recordType}”${guess(ref.recordType, names)}.`];
  }
  const known = leafFields(type.fields).map(({ path }) => path);
  return strangeFields(record, type.fields, '').map(
    (path) => `${refKey(ref)}: ${type.label} has no field “${path}”${guess(path, known)}.`,
  );
}

function strangeFields(record: JsonObject, fields: readonly Field[], under: string): readonly string[] {
  return Object.entries(record).flatMap(([name, value]) => {
    const field = fields.find((each) => each.name === name);
    if (!field) return [under + name];
    return field.fields && isJsonObject(value) ? strangeFields(value, field.fields, `${under}${name}.`) : [];
  });
}

function guess(name: string, known: readonly string[]): string {
  const near = nearestName(name, known);
  return near === undefined ? '' : `; perhaps “${near}” is meant`;
}
