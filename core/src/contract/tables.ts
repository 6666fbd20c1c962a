/** Between server and web: lookup tables. Types only. */
import type { Coverage } from '../table/coverage';
import type { RowChange } from '../table/rowChange';
import type { LookupTable, Row, TableDefinition } from '../table/table';

/** A table without its rows. */
export interface TableSummary extends TableDefinition {
  readonly rowCount: number;
  /** The last change; what is imported or restored is made for a state of the table. */
  readonly revision: number;
  /** The rules whose published version or draft reads the table, with the places of the formulas that do. */
  readonly usedBy: readonly { readonly id: string; readonly name: string; readonly at: readonly string[] }[];
}

export interface TableView extends TableSummary, LookupTable {
  /** The id of each row, in the order of the rows. */
  readonly rowIds: readonly number[];
}

export interface TableChangeView {
  readonly id: number;
  readonly at: string;
  readonly by: string;
  readonly what: string;
  readonly added: number;
  readonly changed: number;
  readonly removed: number;
  /** The first of the changes. */
  readonly first: readonly RowChange[];
}

/** A change of rows as it is asked for; a new row has no id yet. */
export interface AskedRowChange {
  readonly id: number | null;
  readonly before: Row | null;
  readonly after: Row | null;
}

/** What a file would do to a table. */
export interface ImportPreview {
  readonly revision: number;
  readonly added: readonly Row[];
  readonly changed: readonly { readonly before: Row; readonly after: Row }[];
  readonly removed: readonly Row[];
  readonly counts: {
    readonly added: number;
    readonly changed: number;
    readonly removed: number;
    readonly same: number;
  };
}

/** The keys that occur at one look-up and have no row. */
export interface CoverageView extends Coverage {
  readonly rule: { readonly id: string; readonly name: string };
  readonly at: string;
  readonly formula: string;
  readonly system: string;
  readonly recordType: string;
  /** Records that were looked through, and whether there were more than that. */
  readonly records: number;
  readonly more: boolean;
}
