import { Router } from 'express';
import Joi from 'joi';
import {
  changedPaths,
  editsBetween,
  fieldAt,
  readPath,
  sameValue,
  WorkspaceError,
  writePath,
  type FieldEdit,
  type JsonObject,
  type RecordPage,
  type RecordView,
  type StoredRecord,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import type { Registry, RegistryCache } from '../registry/registry';
import { recordTimeline } from '../runs/timeline';

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

/** Records as they are in their systems now: listed, read, and edited by a person. */
export function recordRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router({ mergeParams: true });
  const at = async (params: { system: string; recordType: string }) => {
    const current = await registry.get();
    const store = current.stores.get(params.system);
    const type = current.catalog.recordType(params.system, params.recordType);
    if (!store || !type) throw notFound(`record type ${params.recordType} in ${params.system}`);
    return { current, store, type };
  };

  router.get('/:system/:recordType', async (request, response) => {
    const { store, type } = await at(request.params);
    const query = parsed(listQuery, request.query);
    const conditions =
      query.field === undefined || !fieldAt(type.fields, query.field)
        ? []
        : [{ field: query.field, values: [query.value ?? ''] }];
    const page = await answered(() =>
      store.page(type.name, query.search, query.cursor, Math.min(500, Number(query.limit)), conditions),
    );
    response.json({ records: page.records.map(toView), next: page.next } satisfies RecordPage);
  });

  router.get('/:system/:recordType/:id', async (request, response) => {
    const { store, type } = await at(request.params);
    const stored = await answered(() => store.get(type.name, request.params.id));
    if (!stored) throw notFound(`${type.label.toLowerCase()} ${request.params.id}`);
    response.json(toView(stored));
  });

  router.get('/:system/:recordType/:id/timeline', async (request, response) => {
    const { system, recordType, id } = request.params;
    response.json(await recordTimeline(pool, { system, recordType, id }));
  });

  router.delete('/:system/:recordType/:id', async (request, response) => {
    const { store, type } = await at(request.params);
    const stored = await answered(() => store.get(type.name, request.params.id));
    if (!stored) throw notFound(`${type.label.toLowerCase()} ${request.params.id}`);
    const [result] = await store.removeMany(type.name, [
      {
        change: { kind: 'remove', ref: stored.ref, record: stored.record },
        ...(stored.version !== undefined && { version: stored.version }),
      },
    ]);
    if (!result?.ok) throw unanswered(result?.problem ?? noResult);
    response.status(204).end();
  });

  router.patch('/:system/:recordType/:id', async (request, response) => {
    const { current, store, type } = await at(request.params);
    const { set } = parsed(edits, request.body);
    const stored = await answered(() => store.get(type.name, request.params.id));
    if (!stored) throw notFound(`${type.label.toLowerCase()} ${request.params.id}`);
    const wanted = request.get('If-Match');
    if (wanted !== undefined && stored.version !== undefined && wanted !== `"${stored.version}"`) {
      throw new HttpProblem(
        412,
        'Changed in between',
        'The record was changed in between; look at it again.',
      );
    }
    const changes = asked(current, stored, set as JsonObject);
    if (changes.length === 0) {
      response.json(toView(stored));
      return;
    }
    const change = { kind: 'edit' as const, ref: stored.ref, edits: changes };
    const [result] = await store.patchMany(type.name, [
      { change, ...(stored.version !== undefined && { version: stored.version }) },
    ]);
    if (!result?.ok) throw unanswered(result?.problem ?? noResult);
    const after = result.record ?? {};
    response.json(
      toView({ ...stored, record: after, ...(result.version !== undefined && { version: result.version }) }),
    );
  });
  return router;
}

const noResult = { code: 'unavailable', message: 'No result came back.', retry: true } as const;

/** The edits that a person asks for, without those that change nothing. */
function asked(registry: Registry, { ref, record }: StoredRecord, set: JsonObject): FieldEdit[] {
  const type = registry.catalog.recordType(ref.system, ref.recordType);
  const fields = type?.fields ?? [];
  let after = record;
  for (const [path, value] of Object.entries(set)) {
    const field = fieldAt(fields, path);
    if (!field) throw new HttpProblem(422, 'Not valid', `There is no field “${path}”.`);
    if (field.readOnly)
      throw new HttpProblem(422, 'Not valid', `“${field.label}” is read-only in its system.`);
    if (!sameValue(field, readPath(record, path), value)) after = writePath(after, path, value);
  }
  return changedPaths(fields, record, after).length === 0 ? [] : editsBetween(record, after);
}

function toView({ ref, record, version }: StoredRecord): RecordView {
  return { ref, record, version: version ?? null };
}

/** Turns a system's failure into a problem of ours, so that the person reads which system failed and why. */
async function answered<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask();
  } catch (thrown) {
    if (thrown instanceof WorkspaceError) throw unanswered(thrown.problem);
    throw thrown;
  }
}

function unanswered({ code, message }: WorkspaceError['problem']): HttpProblem {
  const status = {
    'not found': 404,
    'changed in between': 412,
    refused: 422,
    unavailable: 502,
    'too many': 502,
  }[code];
  return new HttpProblem(status, status === 502 ? 'System does not answer' : 'Not taken', message);
}
