/** A row of a file: its cells by the titles of their columns, or why it cannot be read. */
export type FileRow = {
  /** Where it stands, as a person counts: `row 3`. */
  readonly place: string;
  /** Which row of the file it is, from 1; a line of titles counts. */
  readonly at: number;
} & (
  | { readonly ok: true; readonly cells: Readonly<Record<string, string>> }
  | { readonly ok: false; readonly because: string; readonly text: string }
);

/** Reads files of one format row by row. */
export interface RowReader {
  readonly name: string;
  readonly mediaTypes: readonly string[];
  /** Endings of file names, with the dot. */
  readonly endings: readonly string[];
  /**
   * Returns the rows of a file as they come. A row that cannot be read is told of in its place, and the others go on; a file that
   * is not of the format gives one such row.
   */
  read(chunks: AsyncIterable<string>): AsyncIterable<FileRow>;
}
