import { sameValue } from '../model/equal';
import { readPath, type JsonObject } from '../model/json';
import { fieldAt, type RecordType } from '../model/system';
import type { Search } from './workspace';

/** Returns whether a record meets every condition of a search, compared by the types of its fields. */
export function matches(recordType: RecordType | undefined, record: JsonObject, search: Search): boolean {
  return search.conditions.every(({ field, values }) => {
    const definition = recordType && fieldAt(recordType.fields, field);
    const held = readPath(record, field);
    return values.some((value) => sameValue(definition, held, value));
  });
}
