import type { DatabaseConnection, RecordType, TableStyle } from '@vast-knot/core';
import type { SheetParts } from '../sheetParts';

/** What the statements of one record type of a database work with. */
export interface RowParts extends SheetParts<DatabaseConnection> {
  readonly type: RecordType;
  readonly style: TableStyle;
}
