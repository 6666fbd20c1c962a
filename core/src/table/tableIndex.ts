import Decimal from 'decimal.js';
import type { Json } from '../model/json';
import { canonicalNumber } from '../model/canonical';
import { foldKey, joinKeys, keyColumns } from './key';
import type { LookupTable, Row, TableColumn } from './table';

/** A table prepared for look-up: one hash access per key, whatever the number of rows. */
export class TableIndex {
  private readonly rowByKey = new Map<string, Row>();
  /** Instead of the above where validity dates or ranges tell several rows of one key apart. */
  private readonly rivalsByKey = new Map<string, Row[]>();
  private readonly keys: readonly number[];
  private readonly caseless: boolean;
  private readonly validity: { readonly from: number; readonly to: number } | undefined;
  private readonly bound: { readonly at: number; readonly numeric: boolean } | undefined;
  private readonly byValue = new Map<number, ReadonlyMap<string, Row>>();
  /** Whether keys lead to one row each, on every day. */
  readonly plain: boolean;

  constructor(readonly table: LookupTable) {
    this.keys = keyColumns(table);
    this.caseless = table.matching === 'caseless';
    const { validity } = table;
    this.validity = validity && {
      from: table.columns.findIndex(({ name }) => name === validity.from),
      to: table.columns.findIndex(({ name }) => name === validity.to),
    };
    const last = this.keys.at(-1);
    const type = last === undefined ? undefined : table.columns[last]?.type;
    this.bound =
      table.matching === 'range' && last !== undefined
        ? { at: last, numeric: type === 'integer' || type === 'decimal' }
        : undefined;
    this.plain = !this.validity && !this.bound;
    const exact = this.bound ? this.keys.slice(0, -1) : this.keys;
    for (const row of table.rows)
      this.add(
        joinKeys(
          exact.map((at) => row[at]),
          this.caseless,
        ),
        row,
      );
    const { bound } = this;
    if (!bound) return;
    for (const rivals of this.rivalsByKey.values()) {
      rivals.sort((a, b) => this.order(b[bound.at], a[bound.at]));
    }
  }

  get keyCount(): number {
    return this.keys.length;
  }

  column(name: string): { readonly at: number; readonly column: TableColumn } | undefined {
    const at = this.table.columns.findIndex((column) => column.name === name);
    const column = this.table.columns[at];
    return column && { at, column };
  }

  /** Returns the row for the key of a plain table with one key column. */
  findPlain(key: Json): Row | undefined {
    return this.rowByKey.get(foldKey(key, this.caseless));
  }

  /** Returns the row for these keys, in the order of the key columns, that holds on a day (ISO date, for validity dates). */
  find(keys: readonly Json[], day = ''): Row | undefined {
    if (this.plain) return this.rowByKey.get(joinKeys(keys, this.caseless));
    const { bound } = this;
    const rivals = this.rivalsByKey.get(joinKeys(bound ? keys.slice(0, -1) : keys, this.caseless));
    const sought = keys.at(-1) ?? null;
    return rivals?.find(
      (row) => (!bound || this.order(row[bound.at], sought) <= 0) && this.holdsOn(row, day),
    );
  }

  /** Returns the first row that holds a value in a column: the look-up backwards. */
  findByValue(column: number, value: Json, day = ''): Row | undefined {
    let rows = this.byValue.get(column);
    if (!rows) {
      const made = new Map<string, Row>();
      for (const row of this.table.rows) {
        const key = foldKey(row[column], this.caseless);
        if (!made.has(key) && this.holdsOn(row, day)) made.set(key, row);
      }
      rows = made;
      // With validity dates the answer depends on the day, so that nothing is kept.
      if (!this.validity) this.byValue.set(column, rows);
    }
    return rows.get(foldKey(value, this.caseless));
  }

  private add(key: string, row: Row): void {
    if (this.plain) {
      if (!this.rowByKey.has(key)) this.rowByKey.set(key, row);
      return;
    }
    const rivals = this.rivalsByKey.get(key);
    if (rivals) rivals.push(row);
    else this.rivalsByKey.set(key, [row]);
  }

  private holdsOn(row: Row, day: string): boolean {
    if (!this.validity || day === '') return true;
    const from = row[this.validity.from];
    const to = row[this.validity.to];
    return (!from || String(from) <= day) && (!to || String(to) >= day);
  }

  private order(a: Json | undefined, b: Json | undefined): number {
    if (this.bound?.numeric) return compareNumbers(a ?? null, b ?? null);
    const [x, y] = [foldKey(a, false), foldKey(b, false)];
    return x < y ? -1 : Number(x > y);
  }
}

/** Returns below zero, zero or above zero, as a is less than, equal to or greater than b, to the last digit. */
function compareNumbers(a: Json, b: Json): number {
  const [x, y] = [canonicalNumber(a), canonicalNumber(b)];
  const difference = Number(x) - Number(y);
  return difference === 0 && x !== y ? new Decimal(x).cmp(y) : difference;
}
