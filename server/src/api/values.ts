import { Router } from 'express';
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
import type { RecordStore } from '../connector/recordStore';
import { parsed } from '../http/problem';
import type { RegistryCache } from '../registry/registry';

/** Records of one type that are looked through, and places that are told. */
const mostRecords = 5000;
const mostPlaces = 500;
const query = Joi.object<{ text: string }>({ text: Joi.string().min(1).max(500).required() });

/** Where a value stands now: the records of every system are read and looked through, field by field. */
export function valueRoutes(registry: RegistryCache): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    const { text } = parsed(query, request.query);
    const { catalog, stores } = await registry.get();
    const matches = valueMatcher(text);
    const searches = catalog.systems.flatMap(({ key, name, recordTypes }) => {
      const store = stores.get(key);
      return store
        ? recordTypes.map((type) => lookThrough(store, type, `${name}: ${type.plural}`, matches))
        : [];
    });
    const found = await Promise.all(searches);
    response.json({
      places: found.flatMap(({ places }) => places).slice(0, mostPlaces),
      looked: found.reduce((sum, { looked }) => sum + looked, 0),
      notes: found.flatMap(({ notes }) => notes),
    } satisfies ValueSearch);
  });
  return router;
}

async function lookThrough(
  store: RecordStore,
  type: RecordType,
  label: string,
  matches: ReturnType<typeof valueMatcher>,
): Promise<ValueSearch> {
  const places: ValuePlace[] = [];
  let looked = 0;
  let cursor: string | undefined;
  try {
    do {
      const page = await store.page(type.name, '', cursor, 500);
      looked += page.records.length;
      for (const { ref, record } of page.records) {
        const name = readPath(record, type.nameField);
        for (const field of fieldsHolding(record, matches))
          places.push({ ref, name: typeof name === 'string' ? name : null, ...field });
      }
      cursor = page.next ?? undefined;
    } while (cursor !== undefined && looked < mostRecords && places.length < mostPlaces);
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    return { places, looked, notes: [`${label}: ${thrown.problem.message}`] };
  }
  const more = cursor === undefined ? [] : [`${label}: only the first ${looked} were looked through.`];
  return { places, looked, notes: more };
}
