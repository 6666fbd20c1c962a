import type { TableIndex } from '../../table/tableIndex';
import type { LookupTable } from '../../table/table';
import type { Typed } from '../typed';

/** The bounds that are known of a number; an absent one is open. */
export interface NumberRange {
  readonly min?: number;
  readonly max?: number;
}

/** What a condition says, for those who reason about guards without computing them. */
export type Saying = 'all hold' | 'any holds' | 'does not hold' | 'is blank' | 'is one of' | 'changed';

/**
 * What others must know of a function to reason about a formula without running it. A function that has nothing special about
 * it leaves all of these out.
 */
export interface Traits {
  /** The parts of which it gives one as it is, or a list of them: those that IF chooses between. */
  readonly gives?: (parts: readonly Typed[]) => readonly Typed[];
  /** The texts that it can give, where its parts alone do not tell; undefined when it may give any text. */
  readonly values?: (
    parts: readonly Typed[],
    call: Typed,
    tables: ReadonlyMap<string, TableIndex>,
  ) => ReadonlySet<string> | undefined;
  /** The most code points that it can give; undefined when nothing bounds it. */
  readonly longest?: (
    parts: readonly Typed[],
    longestOf: (part: Typed | undefined) => number | undefined,
  ) => number | undefined;
  /** The parts that it joins to one text. */
  readonly joins?: (parts: readonly Typed[]) => readonly Typed[];
  /** The range of its number, from those of its parts. */
  readonly range?: (parts: readonly NumberRange[]) => NumberRange;
  /** Whether it may give blank. Without this it may when any of its parts may. */
  readonly blank?: (parts: readonly Typed[], mayBeBlank: (part: Typed) => boolean) => boolean;
  /** It reads the lookup table that its first argument names: a cell by keys, a key by a cell, or whether keys have a row. */
  readonly looksUp?: 'cell' | 'key' | 'presence';
  /** It goes through the list in its first part and computes the second for each element, which is `item` there. */
  readonly loops?: true;
  /** Reads the record of a file, and can be used only where one is laid out. */
  readonly readsFile?: true;
  /** What it says of its parts, as a condition. */
  readonly says?: Saying;
  /** The arguments that a new step of a chain begins with, beside the value that flows in. */
  readonly begins?: (table: LookupTable | undefined) => readonly string[];
}

/** Of functions that take away or replace one character by one; letters whose other case is several, such as ß, are left aside. */
export const noLonger: Pick<Traits, 'longest'> = { longest: ([first], longestOf) => longestOf(first) };

/** Of functions that give no text longer than so many code points. */
export const atMost = (length: number): Pick<Traits, 'longest'> => ({ longest: () => length });

/** Returns the least of the lengths that are known; undefined when none is. */
export function least(...lengths: readonly (number | undefined)[]): number | undefined {
  const known = lengths.filter((length) => length !== undefined);
  return known.length === 0 ? undefined : Math.min(...known);
}

/** Returns the greatest of the lengths; undefined when one is not known. */
export function greatest(...lengths: readonly (number | undefined)[]): number | undefined {
  const known = lengths.filter((length) => length !== undefined);
  return known.length < lengths.length ? undefined : Math.max(0, ...known);
}

/** Returns the sum of the lengths; undefined when one is not known. */
export function sumOf(lengths: readonly (number | undefined)[]): number | undefined {
  return lengths.reduce(
    (sum, length) => (sum === undefined || length === undefined ? undefined : sum + length),
    0,
  );
}

export function productOf(a: number | undefined, b: number | undefined): number | undefined {
  return a === undefined || b === undefined ? undefined : a * Math.max(0, b);
}

/** Returns the whole number that a part is written as; undefined for all that is computed. */
export function writtenNumber(part: Typed | undefined): number | undefined {
  return part?.node.kind === 'number' ? Number(part.node.value) : undefined;
}
