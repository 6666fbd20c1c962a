import Joi from 'joi';
import {
  fieldsHolding,
  partMatcher,
  readPath,
  valueMatcher,
  WorkspaceError,
  type RecordType,
  type Sightings,
  type ValuePlace,
  type ValueSearch,
} from '@vast-knot/core';
import { pagesOf, type RecordStore } from '../connector/recordStore';
import { parsed } from '../http/problem';
import { sightings } from '../images/words';
import { get, type Handle, type Route } from './route';

/** Records of one type that are looked through, and places that are told. */
const mostRecords = 5000;
const mostPlaces = 500;
const pageSize = 500;
const query = Joi.object<{ text: string }>({ text: Joi.string().min(1).max(500).required() });

const search: Handle<'/values'> = async (request, response, { registry }) => {
  const { text } = parsed(query, request.query);
  const { catalog, stores } = await registry.get();
  const matches = valueMatcher(text);
  const searches = catalog.systems.flatMap(({ key, name, recordTypes }) => {
    const store = stores.get(key);
    return store ? recordTypes.map((type) => lookThrough({ store, type, system: name, matches })) : [];
  });
  const found = await Promise.all(searches);
  response.json({
    places: found.flatMap(({ places }) => places).slice(0, mostPlaces),
    looked: found.reduce((sum, { looked }) => sum + looked, 0),
    // What is wrong with a whole system is told once, and not for each of its record types.
    notes: [...new Set(found.flatMap(({ notes }) => notes))],
  } satisfies ValueSearch);
};

interface Looking {
  readonly store: RecordStore;
  readonly type: RecordType;
  /** What the system is called, for notes. */
  readonly system: string;
  readonly matches: ReturnType<typeof valueMatcher>;
}

async function lookThrough({ store, type, system, matches }: Looking): Promise<ValueSearch> {
  const places: ValuePlace[] = [];
  let looked = 0;
  try {
    for await (const page of pagesOf(store, { type: type.name, limit: pageSize })) {
      if (looked >= mostRecords || places.length >= mostPlaces)
        return {
          places,
          looked,
          notes: [`${system}: of ${type.plural} only the first ${looked} were looked through.`],
        };
      looked += page.length;
      for (const { ref, record } of page) {
        const name = readPath(record, type.nameField);
        for (const field of fieldsHolding(record, matches))
          places.push({ ref, name: typeof name === 'string' ? name : null, ...field });
      }
    }
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    const { message } = thrown.problem;
    return { places, looked, notes: [message.startsWith(system) ? message : `${system}: ${message}`] };
  }
  return { places, looked, notes: [] };
}

/** Records that are looked up at once, and places that are told of them. */
const mostSighted = 100;
const mostTold = 60;
const rank = { exact: 0, normalised: 1, part: 2 } as const;

const known: Handle<'/values/known'> = async (request, response, { pool, registry }) => {
  const { text } = parsed(query, request.query);
  const { catalog } = await registry.get();
  const matches = partMatcher(text);
  const found = await sightings(pool, text, mostSighted);
  const places = found.flatMap(({ record, ...ref }): readonly ValuePlace[] => {
    const type = catalog.recordType(ref.system, ref.recordType);
    const name = type && readPath(record, type.nameField);
    const held = fieldsHolding(record, matches);
    const told = { ref, name: typeof name === 'string' ? name : null };
    // What is known by an id that is no field of it.
    if (held.length === 0) return [{ ...told, path: type?.idField ?? 'id', value: ref.id, match: 'part' }];
    return held.map((field) => ({ ...told, ...field }));
  });
  // What it is called comes before what else it holds.
  const isName = ({ ref, path }: ValuePlace): boolean =>
    catalog.recordType(ref.system, ref.recordType)?.nameField === path;
  response.json({
    places: [...places]
      .sort((a, b) => rank[a.match] - rank[b.match] || Number(isName(b)) - Number(isName(a)))
      .slice(0, mostTold),
    more: found.length === mostSighted,
  } satisfies Sightings);
};

/**
 * Where a value stands now: the records of every system are read and looked through, field by field; and where it stood as records were
 * last seen, which takes no time.
 */
export const valueRoutes: readonly Route[] = [
  get('/values', 'records.read', search, { query }),
  get('/values/known', 'records.read', known, { query }),
];
