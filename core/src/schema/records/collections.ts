import { isJsonObject, type Json, type JsonObject } from '../../model/json';

/** A list of records in an answer. */
export interface Collection {
  /** Where it stands, as a JSON Pointer. */
  readonly items: string;
  /** Where in each element the record stands; undefined where it is the element itself. */
  readonly record: string | undefined;
  readonly records: readonly JsonObject[];
}

/** Lists are looked for so many objects deep. */
const deepest = 3;

/**
 * Returns the lists of objects in an answer, the shallowest first: its root, or members of it. What lies in a record is part of the record.
 */
export function collectionsIn(body: Json): readonly Collection[] {
  const found: Collection[] = [];
  let level: (readonly [at: string, value: Json])[] = [['', body]];
  for (let depth = 0; depth <= deepest && level.length > 0 && found.length === 0; depth++) {
    for (const [at, value] of level) {
      if (!Array.isArray(value)) continue;
      const objects = value.filter(isJsonObject);
      if (objects.length > 0 && objects.length === value.length) found.push(unenveloped(at, objects));
    }
    level = level.flatMap(([at, value]) =>
      isJsonObject(value)
        ? Object.entries(value).map(([name, inner]) => [`${at}/${escaped(name)}`, inner ?? null] as const)
        : [],
    );
  }
  return found;
}

/** Elements that all hold one object, and hardly anything beside it, are envelopes. */
function unenveloped(items: string, elements: readonly JsonObject[]): Collection {
  const [first = {}] = elements;
  const objects = Object.keys(first).filter((name) =>
    elements.every((element) => isJsonObject(element[name])),
  );
  const [only] = objects;
  const scalars = Object.keys(first).length - objects.length;
  if (only === undefined || objects.length > 1 || scalars > 3)
    return { items, record: undefined, records: elements };
  const inner = elements.map((element) => element[only]).filter(isJsonObject);
  const widest = Math.max(...inner.map((each) => Object.keys(each).length));
  // An envelope holds less than what is in it.
  if (
    widest <= scalars ||
    !(
      scalars === 0 || /^(doc|record|attributes|data|item|node|resource|fields|properties|value)$/i.test(only)
    )
  )
    return { items, record: undefined, records: elements };
  return { items, record: `/${escaped(only)}`, records: inner };
}

function escaped(name: string): string {
  return name.replaceAll('~', '~0').replaceAll('/', '~1');
}
