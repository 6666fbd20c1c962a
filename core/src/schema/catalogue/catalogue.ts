/** A column as the catalogue of a database has it. */
export interface CatalogueColumn {
  readonly name: string;
  /** The type as the database writes it: `character varying(40)`. */
  readonly written: string;
  /** The name of the type itself, of a domain that of the type below it: `varchar`, `int4`, `_text`. */
  readonly type: string;
  /** Longest text, in characters. */
  readonly length: number | null;
  /** Digits in all and after the point, of a number with a fixed number of them. */
  readonly precision: number | null;
  readonly scale: number | null;
  readonly notNull: boolean;
  readonly hasDefault: boolean;
  /** The database gives its value, whatever is written. */
  readonly computed: boolean;
  /** Whoever reads the catalogue may write it, at least when a row is created. */
  readonly mayWrite: boolean;
  /** The values of an enumeration. */
  readonly values: readonly string[] | null;
  readonly comment: string;
}

/** Columns that point to a row of another table. */
export interface CatalogueReference {
  readonly columns: readonly string[];
  readonly schema: string;
  readonly table: string;
  readonly toColumns: readonly string[];
}

/** A table or view that may be read. */
export interface CatalogueTable {
  readonly schema: string;
  readonly table: string;
  readonly kind: 'table' | 'view';
  readonly comment: string;
  readonly columns: readonly CatalogueColumn[];
  /** Columns of the primary key. */
  readonly key: readonly string[];
  /** Columns that together are unique, beside the primary key. */
  readonly unique: readonly (readonly string[])[];
  readonly references: readonly CatalogueReference[];
  /** What the table checks of its rows, as SQL. */
  readonly checks: readonly string[];
  readonly mayCreate: boolean;
  readonly mayChange: boolean;
  readonly mayRemove: boolean;
  /** About how many rows there are. */
  readonly rows: number;
}
