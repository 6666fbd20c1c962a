import { canonicalNumber } from '../model/canonical';
import { isLongNumber } from '../model/longNumber';
import type { Json } from '../model/json';
import { nfc } from '../model/nfc';
import type { LookupTable, Row, TableDefinition } from './table';

/** Positions of the key columns. */
export function keyColumns({ columns }: Pick<LookupTable, 'columns'>): readonly number[] {
  return columns.flatMap((column, at) => (column.key ? [at] : []));
}

/** Returns one key value in the form in which it is compared. */
export function foldKey(key: Json | undefined, caseless: boolean): string {
  if (key === null || key === undefined) return '';
  if (typeof key !== 'string')
    return typeof key === 'number' || isLongNumber(key) ? canonicalNumber(key) : String(key);
  const text = nfc(key);
  // Upper before lower: full case mapping opens ß into SS, so that both spellings meet.
  return caseless ? text.toUpperCase().toLowerCase() : text;
}

/** Returns the key of a row, or of values looked up, as one text; the same text means the same key. */
export function joinKeys(keys: readonly (Json | undefined)[], caseless: boolean): string {
  if (keys.length === 1) return foldKey(keys[0], caseless);
  return JSON.stringify(keys.map((key) => foldKey(key, caseless)));
}

/** Returns how a person reads the key of a row: `NOR`, or `NOR / chilled`. */
export function keyText(definition: Pick<TableDefinition, 'columns'>, cells: Row): string {
  return keyColumns(definition)
    .map((at) => String(cells[at] ?? 'blank'))
    .join(' / ');
}
