import Joi from 'joi';
import type { Json } from './json';

export interface TableColumn {
  readonly name: string;
  readonly label: string;
  readonly type: 'text' | 'integer' | 'decimal' | 'boolean' | 'date';
  readonly key: boolean;
}

/** Keyed rows that turn values of one system into those of another. A row has one value per column. */
export interface LookupTable {
  readonly name: string;
  readonly columns: readonly TableColumn[];
  readonly rows: readonly (readonly Json[])[];
  /** How keys are compared. */
  readonly matching: 'exact' | 'caseless';
  /** What a key without a row gives. */
  readonly onMiss: 'blank' | 'error';
}

export const tableSchema: Joi.ObjectSchema<LookupTable> = Joi.object<LookupTable>({
  name: Joi.string().max(80).required(),
  columns: Joi.array()
    .items(
      Joi.object<TableColumn>({
        name: Joi.string().max(80).required(),
        label: Joi.string().max(120).required(),
        type: Joi.valid('text', 'integer', 'decimal', 'boolean', 'date').required(),
        key: Joi.boolean().required(),
      }),
    )
    .min(2)
    .required(),
  rows: Joi.array()
    .items(Joi.array().items(Joi.string().allow(''), Joi.number(), Joi.boolean(), null))
    .required(),
  matching: Joi.valid('exact', 'caseless').required(),
  onMiss: Joi.valid('blank', 'error').required(),
});

/** A table prepared for look-up: one hash access per key, whatever the number of rows. */
export class TableIndex {
  private readonly rowsByKey = new Map<string, readonly Json[]>();
  private readonly keyColumns: number[];

  constructor(readonly table: LookupTable) {
    this.keyColumns = table.columns.flatMap((column, at) => (column.key ? [at] : []));
    for (const row of table.rows) {
      const key = this.keyOf(this.keyColumns.map((at) => row[at] ?? null));
      if (!this.rowsByKey.has(key)) this.rowsByKey.set(key, row);
    }
  }

  get keyCount(): number {
    return this.keyColumns.length;
  }

  column(name: string): { readonly at: number; readonly column: TableColumn } | undefined {
    const at = this.table.columns.findIndex((column) => column.name === name);
    const column = this.table.columns[at];
    return column && { at, column };
  }

  /** The row with these keys, given as text in the order of the key columns. */
  find(keys: readonly Json[]): readonly Json[] | undefined {
    return this.rowsByKey.get(this.keyOf(keys));
  }

  private keyOf(keys: readonly Json[]): string {
    if (keys.length === 1) return this.fold(keys[0] ?? null);
    return JSON.stringify(keys.map((key) => this.fold(key)));
  }

  private fold(key: Json): string {
    const text = String(key ?? '').normalize('NFC');
    return this.table.matching === 'caseless' ? text.toLowerCase() : text;
  }
}
