import Joi from 'joi';
import {
  fieldsHolding,
  readPath,
  valueMatcher,
  WorkspaceError,
  type RecordType,
  type ValuePlace,
  type ValueSearch,
} from '@vast-knot/core';
import { pagesOf, type RecordStore } from '../connector/recordStore';
import { parsed } from '../http/problem';
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
    return store
      ? recordTypes.map((type) => lookThrough({ store, type, label: `${name}: ${type.plural}`, matches }))
      : [];
  });
  const found = await Promise.all(searches);
  response.json({
    places: found.flatMap(({ places }) => places).slice(0, mostPlaces),
    looked: found.reduce((sum, { looked }) => sum + looked, 0),
    notes: found.flatMap(({ notes }) => notes),
  } satisfies ValueSearch);
};

interface Looking {
  readonly store: RecordStore;
  readonly type: RecordType;
  /** What the records are called, for notes. */
  readonly label: string;
  readonly matches: ReturnType<typeof valueMatcher>;
}

async function lookThrough({ store, type, label, matches }: Looking): Promise<ValueSearch> {
  const places: ValuePlace[] = [];
  let looked = 0;
  try {
    for await (const page of pagesOf(store, { type: type.name, limit: pageSize })) {
      if (looked >= mostRecords || places.length >= mostPlaces)
        return { places, looked, notes: [`${label}: only the first ${looked} were looked through.`] };
      looked += page.length;
      for (const { ref, record } of page) {
        const name = readPath(record, type.nameField);
        for (const field of fieldsHolding(record, matches))
          places.push({ ref, name: typeof name === 'string' ? name : null, ...field });
      }
    }
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    return { places, looked, notes: [`${label}: ${thrown.problem.message}`] };
  }
  return { places, looked, notes: [] };
}

/** Where a value stands now: the records of every system are read and looked through, field by field. */
export const valueRoutes: readonly Route[] = [get('/values', 'records.read', search)];
