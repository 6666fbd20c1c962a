import { canonicalDate, canonicalNumber } from '../model/canonical';
import { isBlankJson } from '../model/equal';
import { pathReader, type Json } from '../model/json';
import { scalarText } from '../model/jsonText';
import { isLongNumber } from '../model/longNumber';
import { nfc } from '../model/nfc';
import type { StoredRecord } from '../model/record';
import type { Field } from '../model/system';

/**
 * Records by what one of their fields holds. It narrows a search and does not decide it: values that are the same by the
 * type of the field lie under one key, and the search compares them itself.
 */
export class ValueIndex {
  private readonly byKey = new Map<string, StoredRecord[]>();
  private readonly keyOf: ((value: Json | undefined) => string) | undefined;

  constructor(field: Field, path: string, records: Iterable<StoredRecord>) {
    this.keyOf = keyFor(field);
    const { keyOf } = this;
    if (!keyOf) return;
    const read = pathReader(path);
    for (const stored of records) {
      const key = keyOf(read(stored.record));
      const known = this.byKey.get(key);
      if (known) known.push(stored);
      else this.byKey.set(key, [stored]);
    }
  }

  /** Returns the records that may hold one of the values; undefined where the type of the field has no keys. */
  candidates(values: readonly Json[]): readonly StoredRecord[] | undefined {
    const { keyOf, byKey } = this;
    if (!keyOf) return undefined;
    return [...new Set(values.map(keyOf))].flatMap((key) => byKey.get(key) ?? []);
  }
}

function keyFor({ type }: Field): ((value: Json | undefined) => string) | undefined {
  switch (type) {
    case 'text':
    case 'choice':
    case 'reference':
      return (value) => (isBlankJson(value) ? '' : textKey(value));
    case 'date':
      return (value) => (isBlankJson(value) ? '' : canonicalDate(value));
    case 'integer':
    case 'decimal':
      return (value) => (isBlankJson(value) ? '' : canonicalNumber(value));
    default:
      return undefined;
  }
}

function textKey(value: Json): string {
  // Objects and lists are compared by the search.
  return typeof value === 'object' && !isLongNumber(value) ? '{}' : nfc(scalarText(value));
}
