import Joi from 'joi';
import { v5 as uuidFrom } from 'uuid';
import {
  changedPaths,
  editsBetween,
  fieldAt,
  isBlankJson,
  leafFields,
  readPath,
  sameValue,
  writePath,
  type Field,
  type FieldEdit,
  type GuardedChange,
  type JsonObject,
  type RecordChange,
  type RecordPage,
  type RecordView,
  type StoredRecord,
} from '@vast-knot/core';
import { HttpProblem, notFound, ofWorkspace, parsed } from '../http/problem';
import type { Registry } from '../registry/registry';
import { recordTimeline } from '../runs/timeline';
import { get, patch, post, remove, type AppParts, type Handle, type Route } from './route';

const listQuery = Joi.object<{
  search: string;
  cursor?: string;
  limit: string;
  field?: string;
  value?: string;
}>({
  search: Joi.string().allow('').max(200).default(''),
  cursor: Joi.string().max(500),
  limit: Joi.string()
    .pattern(/^\d{1,3}$/)
    .default('50'),
  field: Joi.string().max(200),
  value: Joi.string().allow('').max(500),
}).and('field', 'value');

const edits = Joi.object<{ set: Record<string, unknown> }>({
  set: Joi.object().pattern(Joi.string().max(200), Joi.any()).min(1).required(),
});

type At = '/records/:system/:recordType';

/** Returns the store and the type that an address names. */
async function at(params: { system: string; recordType: string }, { registry }: AppParts) {
  const current = await registry.get();
  const store = current.stores.get(params.system);
  const type = current.catalog.recordType(params.system, params.recordType);
  if (!store || !type) throw notFound(`record type ${params.recordType} in ${params.system}`);
  return { current, store, type };
}

/** Returns the record that an address names, with its store and type. */
async function existing(params: { system: string; recordType: string; id: string }, parts: AppParts) {
  const place = await at(params, parts);
  const stored = await place.store.get(place.type.name, params.id);
  if (!stored) throw notFound(`${place.type.label.toLowerCase()} ${params.id}`);
  return { ...place, stored };
}

const list: Handle<At> = async (request, response, parts) => {
  const { store, type } = await at(request.params, parts);
  const { search, cursor, limit, field, value } = parsed(listQuery, request.query);
  const conditions =
    field === undefined || !fieldAt(type.fields, field) ? [] : [{ field, values: [value ?? ''] }];
  const page = await store.page({
    type: type.name,
    search,
    cursor,
    limit: Math.min(500, Number(limit)),
    conditions,
  });
  response.json({ records: page.records.map(toView), next: page.next } satisfies RecordPage);
};

const read: Handle<`${At}/:id`> = async (request, response, parts) => {
  response.json(toView((await existing(request.params, parts)).stored));
};

const timeline: Handle<`${At}/:id/timeline`> = async (request, response, { pool }) => {
  const { system, recordType, id } = request.params;
  response.json(await recordTimeline(pool, { system, recordType, id }));
};

const removeOne: Handle<`${At}/:id`> = async (request, response, parts) => {
  const { store, type, stored } = await existing(request.params, parts);
  const change = { kind: 'remove' as const, ref: stored.ref, record: stored.record };
  const [result] = await store.write(type.name, [guarded(change, stored)]);
  if (!result?.ok) throw ofWorkspace(result?.problem ?? noResult);
  response.status(204).end();
};

const edit: Handle<`${At}/:id`> = async (request, response, parts) => {
  const { current, store, type, stored } = await existing(request.params, parts);
  const { set } = parsed(edits, request.body);
  const wanted = request.get('If-Match');
  if (wanted !== undefined && stored.version !== undefined && wanted !== `"${stored.version}"`) {
    throw new HttpProblem(412, 'Changed in between', 'The record was changed in between; look at it again.');
  }
  const changes = asked(current, stored, set as JsonObject);
  if (changes.length === 0) {
    response.json(toView(stored));
    return;
  }
  const change = { kind: 'edit' as const, ref: stored.ref, edits: changes };
  const [result] = await store.write(type.name, [guarded(change, stored)]);
  if (!result?.ok) throw ofWorkspace(result?.problem ?? noResult);
  const { record: after = {}, version } = result;
  response.json(toView({ ...stored, record: after, ...(version !== undefined && { version }) }));
};

const creation = Joi.object<{ set: Record<string, unknown>; key: string; again: boolean }>({
  set: Joi.object().pattern(Joi.string().max(200), Joi.any()).min(1).required(),
  key: Joi.string().hex().length(32).required(),
  again: Joi.boolean().default(false),
});

/** Namespace of the keys of what persons create: any fixed UUID does. */
const ofPersons = '8b8a2c1e-6f0d-4c53-9d0f-5a0c5a6f9b21';

/**
 * Creates a record as a person filled it in. The same key is the same record, however often it is sent; `again` says that it may have been
 * sent before.
 */
const create: Handle<At> = async (request, response, parts) => {
  const { store, type } = await at(request.params, parts);
  const { set, key: given, again } = parsed(creation, request.body);
  const key = uuidFrom(given, ofPersons);
  const record = Object.entries(set as JsonObject).reduce<JsonObject>((made, [path, value]) => {
    settable(type.fields, path);
    return writePath(made, path, value);
  }, {});
  const missing = leafFields(type.fields).find(
    ({ path, field }) => field.required && !field.readOnly && isBlankJson(readPath(record, path)),
  );
  if (missing) throw new HttpProblem(422, 'Not valid', `“${missing.label}” is required, and is blank.`);
  const ref = { system: request.params.system, recordType: type.name, id: `new-${key}` };
  const [result] = await store.write(type.name, [
    { change: { kind: 'create', ref, record }, key, ...(again && { again }) },
  ]);
  if (!result?.ok) throw ofWorkspace(result?.problem ?? noResult);
  const { id = ref.id, record: made = record, version } = result;
  response
    .status(201)
    .json(toView({ ref: { ...ref, id }, record: made, ...(version !== undefined && { version }) }));
};

function guarded(change: RecordChange, { version }: StoredRecord): GuardedChange {
  return { change, ...(version !== undefined && { version }) };
}

const noResult = { code: 'unavailable', message: 'No result came back.', retry: true } as const;

/** Returns the field at a path that a person may fill in. Throws a 422 that says why there is none. */
function settable(fields: readonly Field[], path: string): Field {
  const field = fieldAt(fields, path);
  if (!field) throw new HttpProblem(422, 'Not valid', `There is no field “${path}”.`);
  if (field.readOnly) throw new HttpProblem(422, 'Not valid', `“${field.label}” is read-only in its system.`);
  return field;
}

/** Returns the edits that a person asks for, without those that change nothing. */
function asked(registry: Registry, { ref, record }: StoredRecord, set: JsonObject): FieldEdit[] {
  const type = registry.catalog.recordType(ref.system, ref.recordType);
  const fields = type?.fields ?? [];
  let after = record;
  for (const [path, value] of Object.entries(set)) {
    const field = settable(fields, path);
    if (!sameValue(field, readPath(record, path), value)) after = writePath(after, path, value);
  }
  return changedPaths(fields, record, after).length === 0 ? [] : editsBetween(record, after);
}

function toView({ ref, record, version }: StoredRecord): RecordView {
  return { ref, record, version: version ?? null };
}

/** Records as they are in their systems now: listed, read, and changed by a person. */
export const recordRoutes: readonly Route[] = [
  get('/records/:system/:recordType', 'records.read', list, { query: listQuery }),
  get('/records/:system/:recordType/:id', 'records.read', read),
  get('/records/:system/:recordType/:id/timeline', 'records.read', timeline),
  post('/records/:system/:recordType', 'records.change', create, { body: creation }),
  patch('/records/:system/:recordType/:id', 'records.change', edit, { body: edits }),
  remove('/records/:system/:recordType/:id', 'records.change', removeOne),
];
