/** What a check says of one column. */
export interface Checked {
  readonly column: string;
  readonly min?: number;
  readonly max?: number;
  /** More than, and less than: of whole numbers that is a limit. */
  readonly over?: number;
  readonly under?: number;
  readonly maxLength?: number;
  readonly options?: readonly string[];
}

const name = String.raw`\(*(?:"((?:[^"]|"")+)"|([a-z_][a-z0-9_$]*))\)*(?:::[a-z ]+(?:\(\d+\))?)?\)*`;
const number = String.raw`\(*'?(-?\d+(?:\.\d+)?)'?\)*(?:::[a-z ]+)?\)*`;
const compared = new RegExp(`^${name} (>=|<=|>|<) ${number}$`);
const long = new RegExp(String.raw`^(?:char_length|character_length|length)\(${name}\)* (<=|<) ${number}$`);
const listed = new RegExp(String.raw`^${name} = ANY \(*ARRAY\[(.+?)\]\)*(?:::[a-z ]+\[\])?\)*$`);
const one = new RegExp(String.raw`^${name} = \(*'((?:[^']|'')*)'(?:::[a-z ]+)?\)*$`);

/**
 * Returns what a check says of columns, as PostgreSQL writes checks itself (`pg_get_constraintdef`): limits of numbers, the length of a
 * text, values of a list. Undefined for one that says more than that.
 */
export function readCheck(definition: string): readonly Checked[] | undefined {
  const body = /^CHECK \((.*)\)(?: NOT VALID)?$/s.exec(definition.trim())?.[1];
  if (body === undefined) return undefined;
  const parts = joined(bare(body), ' AND ');
  const read = parts.map((part) => readPart(bare(part)));
  return read.every((each) => each !== undefined) ? read : undefined;
}

function readPart(text: string): Checked | undefined {
  const [, quoted, plain, sign, limit] = compared.exec(text) ?? [];
  if (sign !== undefined) {
    const value = Number(limit);
    const column = columnOf(quoted, plain);
    const limits = { '>=': 'min', '<=': 'max', '>': 'over', '<': 'under' } as const;
    return { column, [limits[sign as keyof typeof limits]]: value };
  }
  const [, longQuoted, longPlain, longSign, longest] = long.exec(text) ?? [];
  if (longSign !== undefined)
    return {
      column: columnOf(longQuoted, longPlain),
      maxLength: Number(longest) - (longSign === '<' ? 1 : 0),
    };
  const [, listQuoted, listPlain, list] = listed.exec(text) ?? [];
  if (list !== undefined) {
    const options = valuesOf(list);
    return options && { column: columnOf(listQuoted, listPlain), options };
  }
  const alternatives = joined(text, ' OR ').map((part) => one.exec(bare(part)));
  const columns = new Set(alternatives.map((found) => found && columnOf(found[1], found[2])));
  const [column] = columns;
  return columns.size === 1 && column
    ? { column, options: alternatives.map((found) => (found?.[3] ?? '').replaceAll("''", "'")) }
    : undefined;
}

const columnOf = (quoted: string | undefined, plain: string | undefined) =>
  quoted === undefined ? (plain ?? '') : quoted.replaceAll('""', '"');

/** Returns the texts of a list of values; undefined where one is none. */
function valuesOf(list: string): readonly string[] | undefined {
  const values: string[] = [];
  const rest = list.replace(/'((?:[^']|'')*)'(?:::[a-z ]+(?:\(\d+\))?)?(?:, |$)/g, (_all, value: string) => {
    values.push(value.replaceAll("''", "'"));
    return '';
  });
  // Values that are cast stand in brackets of their own.
  return rest.replace(/[()]|::[a-z ]+/g, '').trim() === '' && values.length > 0 ? values : undefined;
}

/** Returns a text without brackets around the whole of it. */
function bare(text: string): string {
  let inner = text.trim();
  while (inner.startsWith('(') && closes(inner) === inner.length - 1) inner = inner.slice(1, -1).trim();
  return inner;
}

/** Returns where the bracket closes that a text begins with. */
function closes(text: string): number {
  let depth = 0;
  let inText = false;
  for (let at = 0; at < text.length; at++) {
    const letter = text[at];
    if (letter === "'") inText = !inText;
    else if (!inText && letter === '(') depth++;
    else if (!inText && letter === ')' && --depth === 0) return at;
  }
  return -1;
}

/** Returns the parts of a text between words that stand outside of brackets and texts. */
function joined(text: string, word: string): readonly string[] {
  const parts: string[] = [];
  let depth = 0;
  let inText = false;
  let from = 0;
  for (let at = 0; at < text.length; at++) {
    const letter = text[at];
    if (letter === "'") inText = !inText;
    else if (!inText && letter === '(') depth++;
    else if (!inText && letter === ')') depth--;
    else if (!inText && depth === 0 && text.startsWith(word, at)) {
      parts.push(text.slice(from, at));
      from = at + word.length;
    }
  }
  return [...parts, text.slice(from)];
}
