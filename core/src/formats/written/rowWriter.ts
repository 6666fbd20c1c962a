import type { Json } from '../../model/json';

/** A column of a list that is written. */
export interface WrittenColumn {
  /** What people call it: its title in a table. */
  readonly label: string;
  /** Its name as a member of an object. */
  readonly name: string;
}

/** What is written: its columns, and its rows as they come, each with a value for every column. */
export interface WrittenList {
  readonly columns: readonly WrittenColumn[];
  readonly rows: AsyncIterable<readonly Json[]>;
  /** Whether cells that a spreadsheet would take for formulas are marked as text. */
  readonly guard?: boolean;
}

/** A sheet of a workbook: its name, the titles of its columns, and its rows. */
export interface WrittenSheet {
  readonly name: string;
  readonly titles: readonly string[];
  readonly rows: readonly (readonly Json[])[];
}

/** What takes long in writing, where it is to be done elsewhere: a server makes workbooks in a thread that computes. */
export interface WritingTools {
  readonly workbook: (sheets: readonly WrittenSheet[]) => Promise<Uint8Array>;
}

/** Writes lists in one format. */
export interface RowWriter {
  readonly kind: string;
  /** What people call it. */
  readonly name: string;
  readonly mediaType: string;
  /** The ending of a file name, with the dot. */
  readonly ending: string;
  /** Returns the file part by part, as the rows come. Throws a TooManyRows where the format takes no more. */
  write(list: WrittenList, tools?: WritingTools): AsyncGenerator<Uint8Array>;
}

/** A list is too long for a format that is written as a whole. */
export class TooManyRows extends Error {}
