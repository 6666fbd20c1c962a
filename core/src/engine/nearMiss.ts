import { nfc } from '../model/nfc';

/** Why a held text is not the wanted one, and what would make them the same where a formula can. */
export interface Difference {
  readonly because: string;
  /** What the field would have to be compared as, with `item` for its value. */
  readonly as?: string;
  /** What the wanted value would have to become, with `item` for it. */
  readonly wanted?: string;
  /** Smaller is nearer. */
  readonly distance: number;
}

/** Says how two texts differ when a person would call them the same, or nearly. */
export function differenceOf(held: string, wanted: string): Difference | undefined {
  const a = nfc(held);
  const b = nfc(wanted);
  if (a === '' || b === '' || a === b) return undefined;
  if (a.trim() === b.trim()) return bothAs('TRIM(item)', `${differs(a, b)} by spaces at the ends`, 1);
  if (fold(a) === fold(b))
    return bothAs('LOWER(TRIM(item))', `${differs(a, b)} in capital and small letters`, 1);
  if (withoutAccents(a) === withoutAccents(b))
    return bothAs('FOLD(item)', `${differs(a, b)} in accents or spaces`, 2);
  return affixed(a, b) ?? (bare(a) === bare(b) ? signs(a, b) : misspelt(a, b));
}

/** Both sides are compared in the same form. */
function bothAs(formula: string, because: string, distance: number): Difference {
  return { because, as: formula, wanted: formula, distance };
}

function signs(a: string, b: string): Difference {
  const formula = 'REGEXREPLACE(FOLD(item), "[^a-z0-9]", "")';
  return bothAs(formula, `${differs(a, b)} in spaces or signs`, 3);
}

function differs(a: string, b: string): string {
  return `“${a}” differs from “${b}”`;
}

/** Returns the difference when one text holds the other, with something before or after it. */
function affixed(a: string, b: string): Difference | undefined {
  const [short, long] = a.length < b.length ? [a, b] : [b, a];
  const extra = long.length - short.length;
  if (short.length < 3 || extra > short.length) return undefined;
  const at = fold(long).indexOf(fold(short));
  if (at < 0) return undefined;
  const before = long.slice(0, at);
  const after = long.slice(at + short.length);
  const parts = [
    ...(before === '' ? [] : [`a leading ${before}`]),
    ...(after === '' ? [] : [`a trailing ${after}`]),
  ];
  const because = `${differs(a, b)} by ${parts.join(' and ')}`;
  const distance = 2 + extra / 10;
  if (short !== long.slice(at, at + short.length))
    return { because: `${because}, and in small or large letters or their marks`, distance };
  const removed = [before, after].filter((part) => part !== '');
  const formula = removed.reduce((inner, part) => `SUBSTITUTE(${inner}, ${textLiteral(part)}, "")`, 'item');
  return { because, distance, ...(a === long ? { as: formula } : { wanted: formula }) };
}

function misspelt(a: string, b: string): Difference | undefined {
  // Three characters in a long name are often another name.
  const most = Math.min(2, Math.floor(Math.max([...a].length, [...b].length) / 4));
  const distance = lettersApart(fold(a), fold(b), most);
  if (distance === undefined) return undefined;
  const letters = distance === 1 ? 'one character' : `${distance} characters`;
  return { because: `${differs(a, b)} in ${letters}`, distance: 4 + distance };
}

/**
 * Returns how many characters must be put in, left out, replaced, or swapped with their neighbour (the restricted edit distance of
 * Damerau and Levenshtein); undefined when more than `most`.
 */
export function lettersApart(a: string, b: string, most: number): number | undefined {
  const x = [...a];
  const y = [...b];
  if (Math.abs(x.length - y.length) > most) return undefined;
  let before: number[] = [];
  let above = y.map((_letter, at) => at).concat(y.length);
  for (let i = 1; i <= x.length; i++) {
    const row = [i];
    for (let j = 1; j <= y.length; j++) {
      const same = x[i - 1] === y[j - 1];
      let least = Math.min((above[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, (above[j - 1] ?? 0) + (same ? 0 : 1));
      if (i > 1 && j > 1 && x[i - 1] === y[j - 2] && x[i - 2] === y[j - 1])
        least = Math.min(least, (before[j - 2] ?? 0) + 1);
      row.push(least);
    }
    if (Math.min(...row) > most) return undefined;
    before = above;
    above = row;
  }
  const distance = above[y.length] ?? 0;
  return distance <= most ? distance : undefined;
}

function fold(text: string): string {
  return text.trim().toLowerCase();
}

function withoutAccents(text: string): string {
  return fold(text)
    .normalize('NFD')
    .replace(/\p{Mn}/gu, '')
    .replace(/\s+/g, ' ');
}

/** Letters and digits alone, without accents. */
function bare(text: string): string {
  return withoutAccents(text).replace(/[^\p{L}\p{N}]/gu, '');
}

function textLiteral(text: string): string {
  return `"${text.replace(/"/g, '""')}"`;
}
