import { isJsonObject, type Json } from './json';
import { scalarText } from './jsonText';
import { nfc } from './nfc';
import { canonicalJson, canonicalNumber } from './canonical';
import { fieldAt, type Field } from './system';

/** An element of a list before and after a change, with what it is known by. */
export interface ElementPair {
  /** What the key field holds, where one is named; otherwise the position, from 1. */
  readonly key: string;
  /** Absent where the element was added. */
  readonly before?: Json;
  /** Absent where it was taken away. */
  readonly after?: Json;
}

/** Returns the elements of a list; one value alone counts as a list of itself. */
export function elementsOf(list: Json | undefined): readonly Json[] {
  if (Array.isArray(list)) return list;
  return list === undefined || list === null || list === '' ? [] : [list];
}

/**
 * Returns which element of one list is which of another: by the key field of the list where it names one, so that their order does not
 * matter, and else by position. Where several elements have one key, the first belongs to the first. In the order of the list
 * after, those that were taken away behind them.
 */
export function pairElements(
  field: Pick<Field, 'keyField' | 'fields'>,
  before: Json | undefined,
  after: Json | undefined,
): readonly ElementPair[] {
  const earlier = keyed(field, elementsOf(before));
  const later = keyed(field, elementsOf(after));
  const known = new Map(earlier.map(({ place, element }) => [place, element]));
  const stays = new Set(later.map(({ place }) => place));
  return [
    ...later.map(({ place, key, element }): ElementPair => {
      const was = known.get(place);
      return { key, after: element, ...(was !== undefined && { before: was }) };
    }),
    ...earlier
      .filter(({ place }) => !stays.has(place))
      .map(({ key, element }): ElementPair => ({ key, before: element })),
  ];
}

interface KeyedElement {
  readonly key: string;
  /** The key, and which of those with the same key it is. */
  readonly place: string;
  readonly element: Json;
}

function keyed(
  { keyField, fields = [] }: Pick<Field, 'keyField' | 'fields'>,
  list: readonly Json[],
): readonly KeyedElement[] {
  if (keyField === undefined) {
    return list.map((element, at) => ({ key: String(at + 1), place: String(at + 1), element }));
  }
  const type = fieldAt(fields, keyField)?.type;
  const seen = new Map<string, number>();
  const canonical = type === 'integer' || type === 'decimal' ? canonicalNumber : textKey;
  return list.map((element) => {
    const key = canonical(isJsonObject(element) ? (element[keyField] ?? null) : null);
    const count = (seen.get(key) ?? 0) + 1;
    seen.set(key, count);
    return { key, place: `${count}:${key}`, element };
  });
}

const textKey = (held: Json): string => nfc(scalarText(held));

/**
 * Returns a list with others added to it: under a key field one takes the place of that with its key, else what is not there yet comes
 * behind.
 */
export function withElements(
  field: Pick<Field, 'keyField' | 'fields'>,
  held: readonly Json[],
  added: readonly Json[],
): Json[] {
  if (field.keyField === undefined) {
    const known = new Set(held.map(canonicalJson));
    return [...held, ...added.filter((element) => !known.has(canonicalJson(element)))];
  }
  const later = keyed(field, added);
  const replaced = new Map(later.map(({ place, element }) => [place, element]));
  const earlier = keyed(field, held);
  const there = new Set(earlier.map(({ place }) => place));
  return [
    ...earlier.map(({ place, element }) => replaced.get(place) ?? element),
    ...later.filter(({ place }) => !there.has(place)).map(({ element }) => element),
  ];
}

/** Visits what stands at a path in every element of the lists on the way, until a visit gives false; blanks are passed over. */
export function visitWithin(
  json: Json | undefined,
  path: readonly string[],
  visit: (json: Json) => boolean,
): boolean {
  if (json === undefined || json === null || json === '') return true;
  const [step, ...rest] = path;
  if (step === undefined) return Array.isArray(json) ? json.every((each) => visit(each)) : visit(json);
  if (Array.isArray(json)) return json.every((element) => visitWithin(element, path, visit));
  return !isJsonObject(json) || !Object.hasOwn(json, step) || visitWithin(json[step], rest, visit);
}
