import { readPointer } from '../formats/jsonPointer';
import { isJsonObject, readPath, type JsonObject } from '../model/json';
import { isLongNumber } from '../model/longNumber';
import { scalarText } from '../model/jsonText';
import { unwrapped } from './envelope';
import type { TypeStyle } from './httpConnection';
import { pagingStyle } from './paging';
import { decoded, fillPath } from './template';
import type { WireAnswer, WireRequest } from './wire';

type Parameters = readonly (readonly [name: string, value: string])[];

/** One page of a list, as it is to be asked for. */
export interface ListAsked {
  /** Where the page before ended; undefined for the first. */
  readonly cursor: string | undefined;
  readonly limit: number;
  /** Text that the system's own search looks for. */
  readonly search?: string | undefined;
  /** What is asked for: the conditions, or since when. */
  readonly parameters?: Parameters;
}

/** Returns the request for one page of a list. */
export function listRequest({ list, path }: Pick<TypeStyle, 'list' | 'path'>, asked: ListAsked): WireRequest {
  const paging = pagingStyle(list.paging);
  // The address of a next page has everything in it.
  if (paging.ownAddress && asked.cursor !== undefined) return { method: 'GET', path: asked.cursor };
  const query = new URLSearchParams(list.parameters);
  const { search = '' } = asked;
  if (search !== '' && list.search !== undefined) query.set(list.search, search);
  for (const [name, value] of paging.parameters(list.paging, asked)) query.set(name, value);
  for (const [name, value] of asked.parameters ?? []) query.append(name, value);
  const base = fillPath(list.path, { path }) ?? path;
  const text = query.toString();
  return { method: 'GET', path: text === '' ? base : `${base}${base.includes('?') ? '&' : '?'}${text}` };
}

/** What a list answered, read as its connection says. */
export type ListRead =
  | {
      readonly ok: true;
      /** The records, out of their envelopes. */
      readonly records: readonly JsonObject[];
      readonly total: number | undefined;
      readonly next: string | null;
    }
  | { readonly ok: false; readonly because: string; readonly at: string };

/** Reads one page of a list. What is not as the connection says is told with the place that it concerns. */
export function readList(
  list: TypeStyle['list'],
  { headers, body, status }: WireAnswer,
  { cursor, limit }: Pick<ListAsked, 'cursor' | 'limit'>,
): ListRead {
  // No content is an empty list (RFC 9110, 15.3.5).
  const items = status === 204 ? [] : unwrapped(body, list.items);
  if (!Array.isArray(items)) {
    const there = items === undefined ? 'nothing' : isJsonObject(items) ? 'an object' : 'a single value';
    const place = list.items === '' ? 'at its root' : `at ${list.items}`;
    return { ok: false, because: `has ${there} ${place}, where its records should be`, at: list.items };
  }
  const records: JsonObject[] = [];
  for (const [position, item] of items.entries()) {
    const record = unwrapped(item, list.record);
    if (!isJsonObject(record)) {
      const at = `${list.items}/${position}${list.record ?? ''}`;
      return { ok: false, because: `has something that is not a record at ${at}`, at };
    }
    records.push(record);
  }
  const total = totalOf(list, headers, body);
  const answer = { cursor, limit, headers, body, count: records.length, last: records.at(-1), total };
  return { ok: true, records, total, next: pagingStyle(list.paging).next(list.paging, answer) };
}

function totalOf(
  { total, totalHeader }: TypeStyle['list'],
  headers: WireAnswer['headers'],
  body: unknown,
): number | undefined {
  const told = total === undefined ? undefined : readPointer(body, total);
  const text = totalHeader === undefined ? undefined : headers[totalHeader.toLowerCase()];
  const number = Number(told ?? text ?? Number.NaN);
  return Number.isInteger(number) && number >= 0 ? number : undefined;
}

/** Returns the id of a record; undefined where it has none. */
export function idOf(idField: string, record: JsonObject): string | undefined {
  const id = readPath(record, idField);
  const isScalar = typeof id === 'string' || typeof id === 'number' || isLongNumber(id);
  return isScalar && id !== '' ? scalarText(id) : undefined;
}

/** Returns the version of a record as its system says it; undefined where there is none, or where it stands elsewhere. */
export function versionIn({ version }: Pick<TypeStyle, 'version'>, record: JsonObject): string | undefined {
  if (version.kind !== 'field') return undefined;
  const found = readPath(record, version.field);
  return found === undefined || found === null ? undefined : scalarText(found);
}

/** Returns the last part of the path of an address, decoded: the id of what was created (RFC 9110, 10.2.2). */
export function idInLocation(location: string): string | undefined {
  const [way = ''] = location.split(/[?#]/);
  const last = way
    .split('/')
    .filter((part) => part !== '')
    .at(-1);
  return last === undefined ? undefined : decoded(last);
}
