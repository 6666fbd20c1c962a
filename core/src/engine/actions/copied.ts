import { readPath, writePath, type JsonObject } from '../../model/json';
import { leafFields, type RecordType } from '../../model/system';

/** Returns what of a record can be copied into a new one: all but its id and what only its system writes. */
export function copied(type: RecordType, source: JsonObject): JsonObject {
  return leafFields(type.fields).reduce<JsonObject>((copy, { path, field }) => {
    if (path === type.idField || field.readOnly || field.keptBySystem) return copy;
    const value = readPath(source, path);
    return value === undefined || value === null ? copy : writePath(copy, path, value);
  }, {});
}
