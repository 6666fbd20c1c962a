import Papa from 'papaparse';

/** Lines of a CSV file, or the sentence that says why it is none. */
type Csv = { readonly lines: readonly (readonly string[])[] } | { readonly problem: string };

/** Reads CSV as RFC 4180 has it; the mark between values may be a comma, semicolon or tab, whichever the file uses. */
export function readCsv(text: string): Csv {
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\ufeff/, ''), {
    skipEmptyLines: true,
    delimitersToGuess: [',', ';', '\t'],
  });
  // A file of one column has no mark to be guessed, which is no mistake.
  const [wrong] = errors.filter(({ type }) => type !== 'Delimiter');
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
