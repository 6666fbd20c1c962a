import { isJsonObject, type JsonObject } from '../../model/json';
import { plain, type Resolve } from '../fieldsOfSchema';

/** Where in an answer the records stand, and what they are. */
export interface RecordsIn {
  /** A JSON Pointer; blank for the answer itself. */
  readonly items: string;
  /** Where in each of them the record stands; undefined where it is the element itself. */
  readonly record: string | undefined;
  readonly schema: JsonObject;
  /** What else the answer holds, by pointer. */
  readonly beside: ReadonlyMap<string, JsonObject>;
}

/** Members that only hold what is meant (common practice, no source). */
const wrappers = [
  'data',
  'result',
  'results',
  'items',
  'records',
  'response',
  'payload',
  'content',
  'value',
  'entries',
  'rows',
  'attributes',
  'fields',
];

/** Returns where the records of a list stand: at the root, or the one list of objects at most two objects deep. */
export function recordsIn(answer: JsonObject, resolve: Resolve): RecordsIn | undefined {
  const beside = new Map<string, JsonObject>();
  const lists: { items: string; schema: JsonObject }[] = [];
  const look = (schema: JsonObject, at: string, depth: number) => {
    const element = schema['items'] === undefined ? undefined : plain(schema['items'], resolve);
    if (element && isJsonObject(element['properties'])) lists.push({ items: at, schema: element });
    if (depth > 1 || !isJsonObject(schema['properties'])) return;
    for (const [name, property] of Object.entries(schema['properties'])) {
      const own = plain(property, resolve);
      if (!own) continue;
      const pointer = `${at}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`;
      beside.set(pointer, own);
      look(own, pointer, depth + 1);
    }
  };
  look(answer, '', 0);
  // An object with fields of its own and a list somewhere in it is one record, not a list.
  const [first] = lists.filter(
    ({ items }) => items.split('/').length === Math.min(...lists.map((each) => each.items.split('/').length)),
  );
  if (!first) return undefined;
  const inner = wrapped(first.schema, resolve);
  return { items: first.items, record: inner?.at, schema: inner?.schema ?? first.schema, beside };
}

/**
 * Returns the record in an answer that holds one: in an envelope, where it has one member that holds it. A member that is one of the record's
 * own fields is no envelope.
 */
export function recordIn(
  answer: JsonObject,
  resolve: Resolve,
  own: ReadonlySet<string> = new Set(),
): { readonly at: string | undefined; readonly schema: JsonObject } | undefined {
  if (!isJsonObject(answer['properties'])) return undefined;
  const inner = wrapped(answer, resolve);
  if (inner && own.has(inner.at.slice(1))) return { at: undefined, schema: answer };
  return inner ?? { at: undefined, schema: answer };
}

/** Returns what stands in an envelope: an object with a member that is called so and holds an object. */
function wrapped(
  schema: JsonObject,
  resolve: Resolve,
): { readonly at: string; readonly schema: JsonObject } | undefined {
  const properties = isJsonObject(schema['properties']) ? schema['properties'] : {};
  const names = Object.keys(properties);
  const objects = names.filter((name) => isJsonObject(plain(properties[name], resolve)?.['properties']));
  const [only] = objects;
  if (only === undefined || objects.length > 1) return undefined;
  // A record may well have one object among its fields; an envelope has little else.
  const isEnvelope =
    names.length === 1 ||
    (wrappers.includes(only.toLowerCase()) && names.length <= 4 && !names.includes('id'));
  const inner = plain(properties[only], resolve);
  return isEnvelope && inner ? { at: `/${only}`, schema: inner } : undefined;
}
