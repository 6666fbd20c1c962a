import { Router } from 'express';
import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  changeEventSchema,
  expectedSchema,
  newSampleSchema,
  storedRecordSchema,
  WorkspaceError,
  type Sample,
  type SampleChange,
  type SampleSummary,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { recordsMet } from './meet';
import { insertSample, readSamples } from './repository';
import { takeFromRun } from './takeFromRun';

const taking = Joi.object<{ run: string; name: string }>({
  run: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  name: Joi.string().max(120).required(),
});

const change = Joi.object<SampleChange>({
  name: Joi.string().trim().min(1).max(120),
  note: Joi.string().allow('').max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(40)).unique().max(20),
  expected: expectedSchema.allow(null),
  records: Joi.array().items(storedRecordSchema).max(10_000),
}).min(1);

/** Samples: kept events with the records they met, and what is expected of them. */
export function sampleRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  router.param('id', (_request, _response, next, id: string) => {
    next(/^[0-9a-f-]{36}$/.test(id) ? undefined : notFound('such sample'));
  });

  router.get('/', async (_request, response) => {
    const { rows } = await pool.query<SampleSummary>(
      `SELECT id, name, note, tags, event->'ref' AS ref, event->>'kind' AS kind, event->'changed' AS changed,
         jsonb_array_length(records) AS records
       FROM samples ORDER BY created_at, id`,
    );
    response.json(rows);
  });

  router.get('/whole', async (_request, response) => {
    response.json(await readSamples(pool));
  });

  router.get('/:id', async (request, response) => {
    const [sample] = await readSamples(pool, request.params.id);
    if (!sample) throw notFound('such sample');
    response.json(sample);
  });

  router.post('/', async (request, response) => {
    const id = uuid();
    await insertSample(pool, { id, ...(await sampleFrom(request.body)) });
    await tell(pool, { kind: 'sample', id });
    response.status(201).json({ id });
  });

  /** A sample as it is given, or what is taken from a run. */
  const sampleFrom = async (body: unknown): Promise<Omit<Sample, 'id'>> => {
    if (typeof body !== 'object' || body === null || !('run' in body)) return parsed(newSampleSchema, body);
    const { run, name } = parsed(taking, body);
    const taken = await takeFromRun(pool, run);
    if (!taken) throw notFound('such run');
    return { name, note: `Taken from run ${run}.`, ...taken };
  };

  router.post('/meet', async (request, response) => {
    const event = parsed(changeEventSchema, request.body);
    const current = await registry.get();
    if (!current.catalog.recordType(event.ref.system, event.ref.recordType))
      throw notFound(`record type ${event.ref.recordType} in ${event.ref.system}`);
    try {
      response.json(await recordsMet(pool, current, event));
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      throw new HttpProblem(502, 'System does not answer', thrown.problem.message);
    }
  });

  router.patch('/:id', async (request, response) => {
    const { id } = request.params;
    const { name, note, tags, expected, records } = parsed(change, request.body);
    const { rowCount } = await pool.query(
      `UPDATE samples SET name = coalesce($2, name), note = coalesce($3, note), tags = coalesce($4, tags),
         expected = CASE WHEN $5 THEN $6::jsonb ELSE expected END, records = coalesce($7::jsonb, records)
       WHERE id = $1`,
      [
        id,
        name ?? null,
        note ?? null,
        tags ?? null,
        expected !== undefined,
        expected === undefined || expected === null ? null : JSON.stringify(expected),
        records === undefined ? null : JSON.stringify(records),
      ],
    );
    if (rowCount === 0) throw notFound('such sample');
    await tell(pool, { kind: 'sample', id });
    response.status(204).end();
  });

  router.delete('/:id', async (request, response) => {
    const { rowCount } = await pool.query('DELETE FROM samples WHERE id = $1', [request.params.id]);
    if (rowCount === 0) throw notFound('such sample');
    await tell(pool, { kind: 'sample', id: request.params.id });
    response.status(204).end();
  });
  return router;
}
