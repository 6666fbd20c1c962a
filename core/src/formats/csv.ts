import Papa from 'papaparse';
import { LineEnds } from './lineEnds';

/** Lines of a CSV file, or the sentence that says why it is none. */
export type Csv = { readonly lines: readonly (readonly string[])[] } | { readonly problem: string };

/** Reads CSV as RFC 4180 has it; the mark between values may be a comma, semicolon or tab, whichever the file uses. */
export function readCsv(text: string): Csv {
  const ends = new LineEnds();
  const plain = ends.take(text.replace(/^\ufeff/, '')) + ends.end();
  const { data, errors } = Papa.parse<string[]>(plain, {
    skipEmptyLines: true,
    delimiter: delimiterOf(plain),
    newline: '\n',
  });
  const [wrong] = errors;
  if (wrong) {
    const line = wrong.row === undefined ? '' : ` in line ${wrong.row + 1}`;
    return { problem: `This is not CSV${line}: ${wrong.message}.` };
  }
  return data.length === 0 ? { problem: 'The file is empty.' } : { lines: data };
}

/** Writes CSV as RFC 4180 has it, with CRLF between lines and quotes where they are needed. */
export function writeCsv(lines: readonly (readonly string[])[]): string {
  return Papa.unparse(
    lines.map((line) => [...line]),
    { newline: '\r\n' },
  );
}

/** Returns a cell so that no spreadsheet takes it for a formula: with an apostrophe before it where it begins as one (OWASP, CSV injection). */
export function guardedCell(cell: string): string {
  return /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell;
}

const delimiters = [',', ';', '\t'] as const;

/** Returns what stands between the cells of a CSV text: what parts its first line into the most titles. What stands in its cells says nothing. */
export function delimiterOf(text: string): string {
  const titles = (delimiter: string) =>
    (
      Papa.parse(text, { preview: 1, skipEmptyLines: true, delimiter }).data[0] as
        readonly string[] | undefined
    )?.length ?? 0;
  return delimiters.reduce((best, each) => (titles(each) > titles(best) ? each : best));
}
