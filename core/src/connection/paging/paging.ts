import Joi from 'joi';
import type { JsonObject } from '../../model/json';
import { parameterName, type Style } from '../style';
import type { WireAnswer } from '../wire';

/** How many records a page may have. */
export interface PageLimit {
  /** The parameter that says so; without one, the system decides. */
  readonly name?: string;
  readonly most: number;
}

export const limitSchema = Joi.object<PageLimit>({
  name: parameterName,
  most: Joi.number().integer().min(1).max(100_000).required(),
});

/** What asks for one page. */
export interface PageAsked {
  /** Where the page before ended; undefined for the first. */
  readonly cursor: string | undefined;
  /** At most so many records are wanted. */
  readonly limit: number;
}

/** A page that came. */
export interface PageAnswer extends PageAsked, Pick<WireAnswer, 'headers' | 'body'> {
  /** How many records were on it. */
  readonly count: number;
  /** The last of them. */
  readonly last: JsonObject | undefined;
  /** How many there are in all, where the system says so. */
  readonly total: number | undefined;
}

/** One way in which a long list is given in pages. */
export interface PagingStyle<P extends { readonly kind: string }> extends Style<P> {
  /** Parameters of the address of a page. */
  parameters(paging: P, asked: PageAsked): readonly (readonly [name: string, value: string])[];
  /** The cursor is an address of its own, in which all else stands. */
  readonly ownAddress?: true;
  /** Returns the cursor of the page after one; null on the last. */
  next(paging: P, answer: PageAnswer): string | null;
}

/** Returns the parameter for the size of a page, where there is one. */
export function limitParameter(
  limit: PageLimit | undefined,
  wanted: number,
): readonly (readonly [name: string, value: string])[] {
  return limit?.name === undefined ? [] : [[limit.name, String(Math.max(1, Math.min(wanted, limit.most)))]];
}

/** Returns whether all records were given by now. Only a total or a page without any says so: a page may be shorter than was asked for. */
export function isLast(before: number, { count, total }: PageAnswer): boolean {
  return count === 0 || (total !== undefined && before + count >= total);
}
