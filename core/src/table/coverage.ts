import { fieldAt, type Field } from '../model/system';
import { readPath, type Json, type JsonObject } from '../model/json';
import { isBlankJson } from '../model/equal';
import { foldKey } from './key';
import type { TableIndex } from './tableIndex';

/** A value that occurs and has no row. */
export interface UncoveredValue {
  readonly value: string;
  /** Records that hold it; 0 for an option that no record has yet. */
  readonly records: number;
}

export interface Coverage {
  readonly field: string;
  /** Different values that occur in the records or among the options. */
  readonly values: number;
  readonly uncovered: readonly UncoveredValue[];
}

/** Which values of a field, in records and among its options, have no row in a table with one key column. */
export function coverage(
  index: TableIndex,
  fields: readonly Field[],
  path: string,
  records: Iterable<JsonObject>,
): Coverage {
  const field = fieldAt(fields, path);
  const caseless = index.table.matching === 'caseless';
  const counts = new Map<string, { value: string; records: number }>();
  const count = (value: Json | undefined, by: number) => {
    if (isBlankJson(value)) return;
    const key = foldKey(value, caseless);
    const known = counts.get(key);
    if (known) known.records += by;
    else counts.set(key, { value: String(value), records: by });
  };
  for (const option of field?.options ?? []) count(option.value, 0);
  for (const record of records) {
    const value = readPath(record, path);
    if (Array.isArray(value)) value.forEach((one) => count(one, 1));
    else count(value, 1);
  }
  const uncovered = [...counts.values()]
    .filter(({ value }) => index.find([value]) === undefined)
    .sort((a, b) => b.records - a.records || (a.value < b.value ? -1 : 1));
  return { field: path, values: counts.size, uncovered };
}
