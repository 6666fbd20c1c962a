import Papa from 'papaparse';
import { delimiterOf } from './csv';
import { LineEnds } from './lineEnds';

/** What the package says of a text that it went through. */
interface Parsed {
  readonly data: readonly (readonly string[])[];
  readonly errors: readonly { readonly row?: number; readonly message: string }[];
  readonly meta: { readonly cursor: number };
}

/** How cells are parted; without it as the first line of the file tells. */
interface CsvMarks {
  readonly delimiter?: string;
  readonly quote?: string;
}

/** A line does not go on for longer, in characters: most likely a quote was opened that nobody closes. */
const longestLine = 4_000_000;

/**
 * Returns the lines of a file, those of a part together; what is left of a line at the end of a chunk is read with the next one. `wrong` hears of what is no CSV, with
 * the number of its line, before the line comes. A line that is too long comes without cells, and what comes after its first line end is read again.
 */
export async function* linesOf(
  chunks: AsyncIterable<string>,
  wrong: (message: string, line: number) => void = () => undefined,
  marks: CsvMarks = {},
): AsyncGenerator<readonly (readonly string[])[]> {
  let before = 0;
  const told = ({ data, errors }: Parsed) => {
    for (const { row = 0, message } of errors) wrong(message, before + row + 1);
    before += data.length;
    return data;
  };
  let rest = '';
  /** What is left of a line that was too long is passed over. */
  let isPassed = false;
  const passOver = () => {
    if (!isPassed) return;
    const end = rest.indexOf('\n');
    rest = end === -1 ? '' : rest.slice(end + 1);
    isPassed = end === -1;
  };
  let parser: Papa.Parser | undefined;
  const ends = new LineEnds(marks.quote);
  for await (const chunk of chunks) {
    rest += ends.take(chunk);
    passOver();
    // Which mark the file uses is seen once its first line has ended.
    if (!parser && rest.includes('\n')) {
      rest = rest.replace(/^\ufeff/, '');
      parser = parserFor(rest, marks);
    }
    if (parser) {
      const parsed = parser.parse(rest, 0, true) as Parsed;
      rest = rest.slice(parsed.meta.cursor);
      yield told(parsed);
    }
    if (rest.length > longestLine) {
      before++;
      wrong(
        `it is longer than ${longestLine.toLocaleString('en')} characters; perhaps a quote is not closed`,
        before,
      );
      yield [[]];
      isPassed = true;
      passOver();
    }
  }
  rest += ends.end();
  if (parser === undefined) rest = rest.replace(/^\ufeff/, '');
  if (rest !== '') yield told((parser ?? parserFor(rest, marks)).parse(rest, 0, false) as Parsed);
}

/** Reads with the mark that is given, or that the beginning of a file uses: comma, semicolon or tab. */
function parserFor(beginning: string, { delimiter, quote }: CsvMarks): Papa.Parser {
  return new Papa.Parser({
    delimiter: delimiter ?? delimiterOf(beginning),
    newline: '\n',
    ...(quote !== undefined && { quoteChar: quote }),
  });
}
