import Joi from 'joi';
import type { Json, JsonObject } from '../../model/json';
import { scalarText } from '../../model/jsonText';
import { resultNames, type ResultRow } from './result';
import { excerpt, type AddressRead, type FileRow, type ShownPart } from './format';

/** Where the titles of the columns stand. */
export interface Heads {
  /** The first line of titles, counted from 1; 0 where there is none, and columns are called A, B, C. */
  readonly headAt: number;
  /** How many lines of titles there are: a title above several others goes before each of them. */
  readonly headLines: number;
}

export const headsSchema = {
  headAt: Joi.number().integer().min(0).max(1000).required(),
  headLines: Joi.number().integer().min(1).max(3).required(),
};

/** A row of a table, its cells from left to right. */
export interface TableLine {
  readonly at: number;
  readonly cells: readonly Json[];
  /** Why it cannot be read, as a sentence. */
  readonly wrong?: string;
}

/** A table has no more columns. */
const mostColumns = 2000;

/** Returns the rows of a table as records, each cell by the title of its column. */
export async function* recordsOfTable(
  parts: AsyncIterable<readonly TableLine[]>,
  { headAt, headLines }: Heads,
): AsyncGenerator<readonly FileRow[]> {
  const heads: (readonly Json[])[] = [];
  let titles: readonly string[] | undefined;
  for await (const lines of parts) {
    const rows: FileRow[] = [];
    for (const line of lines) {
      const { at, cells } = line;
      if (cells.length > mostColumns) {
        const because = `It has ${cells.length.toLocaleString('en')} columns; at most ${mostColumns.toLocaleString('en')} are read.`;
        const text = excerpt(cells.slice(0, 50).join(','));
        yield [...rows, { ok: false, at, place: `row ${at}`, because, text }];
        return;
      }
      if (headAt > 0 && at < headAt + headLines) {
        if (at >= headAt) heads.push(cells);
        continue;
      }
      if (line.wrong === undefined && cells.every((cell) => cell === null || cell === '')) continue;
      titles ??= headAt === 0 ? cells.map((_, column) => columnLetters(column)) : titlesOf(heads);
      rows.push(recordOf(titles, line));
    }
    yield rows;
  }
}

function recordOf(titles: readonly string[], { at, cells, wrong }: TableLine): FileRow {
  const place = `row ${at}`;
  // Cells beyond the last title that are empty are what a spreadsheet leaves there.
  const beyond = cells.slice(titles.length).some((cell) => cell !== null && cell !== '');
  const count = beyond ? cells.length : Math.min(cells.length, titles.length);
  const because =
    wrong ??
    (count === titles.length
      ? undefined
      : `It has ${count} ${count === 1 ? 'cell' : 'cells'}, and there are ${titles.length} titles.`);
  if (because !== undefined)
    return { ok: false, at, place, because, text: excerpt(cells.map((cell) => scalarText(cell)).join(',')) };
  const value: Record<string, Json> = {};
  for (let column = 0; column < titles.length; column++) {
    // A title that an object has of itself is kept as any other.
    const title = titles[column] ?? '';
    if (title === '__proto__')
      Object.defineProperty(value, title, { value: cells[column] ?? null, enumerable: true });
    else value[title] = cells[column] ?? null;
  }
  return { ok: true, at, place, value };
}

/**
 * Returns what the columns are called. Where there are several lines of titles, one that stands over several columns (as merged cells do) goes before
 * those below it: `Address / Town`. A column without a title is called by its letters, and one whose title stands there already gets a number.
 */
function titlesOf(heads: readonly (readonly Json[])[]): readonly string[] {
  const width = Math.max(0, ...heads.map(({ length }) => length));
  const last = heads.length - 1;
  const over = heads.map((cells, line) => {
    let before = '';
    return Array.from({ length: width }, (_, column) => {
      const title = scalarText(cells[column]).trim();
      if (title !== '' || line === last) return (before = title);
      return before;
    });
  });
  const taken = new Map<string, number>();
  return Array.from({ length: width }, (_, column) => {
    const parts = over
      .map((titles) => titles[column] ?? '')
      .filter((title, at, all) => title !== '' && title !== all[at - 1]);
    const title = parts.join(' / ') || columnLetters(column);
    const times = (taken.get(title) ?? 0) + 1;
    taken.set(title, times);
    return times === 1 ? title : `${title} (${times})`;
  });
}

/** Returns the letters of a column, as spreadsheets have them: A to Z, then AA. */
export function columnLetters(column: number): string {
  const last = String.fromCharCode(65 + (column % 26));
  return column < 26 ? last : columnLetters(Math.floor(column / 26) - 1) + last;
}

/** A place in a row is named by the title of its column. */
export function columnAddress(text: string): AddressRead {
  const title = text.trim();
  if (title === '') return { ok: false, because: 'The title of a column is missing.' };
  return {
    ok: true,
    address: { text: title, read: (value) => (Object.hasOwn(value, title) ? (value[title] ?? null) : null) },
  };
}

/** Returns a row as its columns, one below the other. */
export function shownRow(value: JsonObject): readonly ShownPart[] {
  return Object.entries(value).map(([title, cell]) => ({
    label: title,
    text: scalarText(cell ?? null),
    address: title,
  }));
}

/** Returns the lines of a table with a column for what became of each row, and one for the ids; the first line are the titles. */
export async function* resultLines(rows: AsyncIterable<ResultRow>): AsyncGenerator<readonly Json[]> {
  let titles: readonly string[] | undefined;
  const held: ResultRow[] = [];
  const line = ({ value, text, says, ids }: ResultRow): readonly Json[] => {
    const own = (titles ?? []).map((title, column) =>
      value ? (value[title] ?? null) : column === 0 ? text : null,
    );
    return [...own, says, ids];
  };
  for await (const row of rows) {
    // The titles are those of the first row that could be read.
    if (!titles && !row.value && held.length < mostHeld) {
      held.push(row);
      continue;
    }
    if (!titles) {
      titles = row.value ? Object.keys(row.value) : ['Row'];
      yield [...titles, resultNames.says, resultNames.ids];
      for (const earlier of held) yield line(earlier);
    }
    yield line(row);
  }
  if (titles) return;
  titles = ['Row'];
  yield [...titles, resultNames.says, resultNames.ids];
  for (const earlier of held) yield line(earlier);
}

/** So many rows that could not be read may stand before the first that could. */
const mostHeld = 10_000;
