import { isLongNumber, readPointer, scalarText, type SearchCondition } from '@vast-knot/core';
import type { PageRequest } from '../recordStore';
import { addFilter } from './filters';
import type { HttpConnection } from './httpConnection';

/** Values of one condition that are sent in one request; longer lists are asked for in parts. */
const valuesAtOnce = 100;

/** Returns the query of a page of records. */
export function pageQuery(list: HttpConnection['list'], request: Omit<PageRequest, 'type'>): URLSearchParams {
  const { limit, cursor, search = '', conditions = [] } = request;
  const query = new URLSearchParams();
  query.set(list.limit.name, String(Math.min(limit, list.limit.most)));
  if (search !== '') query.set(list.search, search);
  if (cursor !== undefined) query.set(list.cursor, cursor);
  for (const condition of conditions) addFilter(query, list.filter, condition);
  return query;
}

/** Returns the cursor of the next page that an answer names; null on the last page. */
export function nextCursor(list: HttpConnection['list'], body: unknown): string | null {
  const next = readPointer(body, list.next);
  const isScalar = typeof next === 'string' || typeof next === 'number' || isLongNumber(next);
  return isScalar && next !== '' ? scalarText(next) : null;
}

/** Returns the conditions as several sets, none of which has more values than fit into one request. */
export function inParts(conditions: readonly SearchCondition[]): readonly (readonly SearchCondition[])[] {
  const long = conditions.find(({ values }) => values.length > valuesAtOnce);
  if (!long) return [conditions];
  const parts: (readonly SearchCondition[])[] = [];
  for (let at = 0; at < long.values.length; at += valuesAtOnce) {
    const part = { field: long.field, values: long.values.slice(at, at + valuesAtOnce) };
    parts.push(...inParts(conditions.map((each) => (each === long ? part : each))));
  }
  return parts;
}
