import { Temporal } from 'temporal-polyfill';

/** The parts of a date or time that a pattern can name. */
type Part = 'year' | 'month' | 'day' | 'hour' | 'minute' | 'second' | 'half';

type Piece = { readonly part: Part; readonly letters: string } | { readonly literal: string };

const monthNames = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];

/**
 * Splits a pattern such as `dd/mm/yyyy hh:mm` into its pieces. The letters are those of spreadsheet formats: `m` after
 * an hour or before a second is a minute; `AM/PM` and `A/P` stand for the half of the day. Undefined for a pattern that names nothing.
 */
function piecesOf(pattern: string): readonly Piece[] | undefined {
  const raw = pattern.match(/am\/pm|a\/p|y+|m+|d+|h+|s+|(?:(?!am\/pm|a\/p)[^ymdhs])+/gi) ?? [];
  const letterAt = (at: number, step: 1 | -1): string => {
    for (let index = at + step; index >= 0 && index < raw.length; index += step) {
      const letter = raw[index]?.[0]?.toLowerCase() ?? '';
      if ('ymdhs'.includes(letter)) return letter;
    }
    return '';
  };
  const pieces = raw.map((chunk, at): Piece => {
    const letter = chunk[0]?.toLowerCase();
    const letters = chunk.toLowerCase();
    if (letters === 'am/pm' || letters === 'a/p') return { part: 'half', letters };
    if (letter === 'y') return { part: 'year', letters };
    if (letter === 'd') return { part: 'day', letters };
    if (letter === 'h') return { part: 'hour', letters };
    if (letter === 's') return { part: 'second', letters };
    if (letter === 'm') {
      const minute = letterAt(at, -1) === 'h' || letterAt(at, 1) === 's';
      return { part: minute ? 'minute' : 'month', letters };
    }
    return { literal: chunk };
  });
  return pieces.some((piece) => 'part' in piece) ? pieces : undefined;
}

/** Returns the characters that a piece takes from the text; digits by count, so that `ddmmyy` can be read without marks. */
function readPiece(
  { part, letters }: { readonly part: Part; readonly letters: string },
  text: string,
): { readonly value: number; readonly length: number } | undefined {
  if (part === 'month' && letters.length >= 3) {
    const lower = text.toLowerCase();
    const full = monthNames.findIndex((name) => lower.startsWith(name));
    if (full >= 0) return { value: full + 1, length: monthNames[full]?.length ?? 0 };
    const short = monthNames.findIndex((name) => lower.startsWith(name.slice(0, 3)));
    return short < 0 ? undefined : { value: short + 1, length: 3 };
  }
  if (part === 'half') {
    const half = (letters === 'a/p' ? /^[ap]/i : /^[ap]\.?m\b\.?/i).exec(text)?.[0];
    return half === undefined ? undefined : { value: /^a/i.test(half) ? 0 : 12, length: half.length };
  }
  if (part === 'year') {
    const digits = (letters.length > 2 ? /^\d{4}/ : /^\d{2}/).exec(text)?.[0];
    if (digits === undefined) return undefined;
    const year = Number(digits);
    return { value: digits.length === 4 ? year : year + (year < 70 ? 2000 : 1900), length: digits.length };
  }
  const digits = (letters.length === 2 ? /^\d{2}/ : /^\d{1,2}/).exec(text)?.[0];
  return digits === undefined ? undefined : { value: Number(digits), length: digits.length };
}

/**
 * Reads a date and time by a pattern; undefined when the text does not follow it or names a day that does not exist.
 * Years of two digits mean 1970 to 2069. Parts that the pattern lacks are 1 for month and day, 0 for the time.
 */
export function readByPattern(text: string, pattern: string): Temporal.PlainDateTime | undefined {
  const pieces = piecesOf(pattern);
  if (!pieces) return undefined;
  const parts: Partial<Record<Part, number>> = {};
  let rest = text.trim();
  for (const piece of pieces) {
    if ('literal' in piece) {
      if (!rest.toLowerCase().startsWith(piece.literal.toLowerCase())) return undefined;
      rest = rest.slice(piece.literal.length);
      continue;
    }
    const read = readPiece(piece, rest);
    if (!read) return undefined;
    parts[piece.part] = read.value;
    rest = rest.slice(read.length);
  }
  if (rest !== '') return undefined;
  const { year = 1970, month = 1, day = 1, minute = 0, second = 0 } = parts;
  const hour = hourOf(parts.hour, parts.half);
  if (hour === undefined) return undefined;
  try {
    return Temporal.PlainDateTime.from({ year, month, day, hour, minute, second }, { overflow: 'reject' });
  } catch {
    // The 31st of February and the 25th hour: the text follows the pattern and still names no moment.
    return undefined;
  }
}

/** Returns the hour of 24 from that of a clock; undefined for an hour that a clock of twelve hours does not show. */
function hourOf(hour: number | undefined, half: number | undefined): number | undefined {
  if (half === undefined) return hour ?? 0;
  return hour === undefined || hour < 1 || hour > 12 ? undefined : (hour % 12) + half;
}

/** Reads a time of day such as `08:30`, `8:30:15` or `8:30 pm`; the day of what it returns means nothing. */
export function readClock(text: string): Temporal.PlainDateTime | undefined {
  const clock = text.trim();
  const time = clock.split(':').length > 2 ? 'h:mm:ss' : 'h:mm';
  if (!/[ap]\.?m\.?$/i.test(clock)) return readByPattern(clock, time);
  return readByPattern(clock, /\s[ap]\.?m\.?$/i.test(clock) ? `${time} AM/PM` : `${time}AM/PM`);
}
