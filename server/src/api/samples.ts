import { Router } from 'express';
import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  changeEventSchema,
  expectedSchema,
  maskRecords,
  maskSample,
  newSampleSchema,
  storedRecordSchema,
  WorkspaceError,
  type Sample,
  type SampleChange,
  type SampleSummary,
  type StoredRecord,
  type System,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { recordsMet } from '../samples/meet';
import { insertSample, readSamples, replaceSample } from '../samples/repository';
import { listening, nextEvent } from '../samples/listen';
import { takeFromRun } from '../samples/takeFromRun';

const taking = Joi.object<{ run: string; name: string; masked?: true }>({
  run: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  name: Joi.string().max(120).required(),
  masked: Joi.valid(true),
});

const change = Joi.object<SampleChange>({
  name: Joi.string().trim().min(1).max(120),
  note: Joi.string().allow('').max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(40)).unique().max(20),
  expected: expectedSchema.allow(null),
  records: Joi.array().items(storedRecordSchema).max(10_000),
  masked: Joi.valid(true),
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

  /** The run of the first event of a kind that came in after another one; without one, where the inbox stands now. */
  router.get('/heard', async (request, response) => {
    const wanted = parsed(listening, request.query);
    response.json(await nextEvent(pool, wanted));
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
    const { run, name, masked } = parsed(taking, body);
    const taken = await takeFromRun(pool, run);
    if (!taken) throw notFound('such run');
    const sample = { name, note: `Taken from run ${run}.`, ...taken };
    return masked ? maskSample(sample, await systems()) : sample;
  };

  const systems = async () => (await registry.get()).catalog.systems;

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
    const { name, note, tags, expected, records, masked } = parsed(change, request.body);
    const known = await systems();
    await inTransaction(pool, async (client) => {
      const { rowCount } = await client.query(
        `UPDATE samples SET name = coalesce($2, name), note = coalesce($3, note), tags = coalesce($4, tags),
           expected = CASE WHEN $5 THEN $6::jsonb ELSE expected END
         WHERE id = $1`,
        [
          id,
          name ?? null,
          note ?? null,
          tags ?? null,
          expected !== undefined,
          expected === undefined || expected === null ? null : JSON.stringify(expected),
        ],
      );
      if (rowCount === 0) throw notFound('such sample');
      if (records || masked) await changeContents(client, id, known, { records, masked });
      await tell(client, { kind: 'sample', id });
    });
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

/** Takes other records into a sample, or masks it. What a masked sample takes is masked, whoever sends it. */
async function changeContents(
  client: Runner,
  id: string,
  systems: readonly System[],
  {
    records,
    masked,
  }: { readonly records: readonly StoredRecord[] | undefined; readonly masked: true | undefined },
): Promise<void> {
  const [sample] = await readSamples(client, id);
  if (!sample) return;
  const taken = records && sample.masked ? maskRecords(records, sample, systems) : records;
  const changed = { ...sample, ...(taken && { records: taken }) };
  await replaceSample(client, masked ? maskSample(changed, systems) : changed);
}
