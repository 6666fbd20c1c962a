import { Router } from 'express';
import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import type { ChangeEvent, Sample, SampleSummary, StoredRecord } from '@vast-knot/core';
import { tell } from '../db/notices';
import type { Pool } from '../db/pool';
import { notFound, parsed } from '../http/problem';

const taking = Joi.object<{ run: string; name: string }>({
  run: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  name: Joi.string().max(120).required(),
});

/** Samples: kept events with the records they met. */
export function sampleRoutes(pool: Pool): Router {
  const router = Router();
  router.param('id', (_request, _response, next, id: string) => {
    next(/^[0-9a-f-]{36}$/.test(id) ? undefined : notFound('such sample'));
  });

  router.get('/', async (_request, response) => {
    const { rows } = await pool.query<SampleSummary>(
      `SELECT id, name, note, event->'ref' AS ref, event->>'kind' AS kind, event->'changed' AS changed,
         jsonb_array_length(records) AS records
       FROM samples ORDER BY created_at, id`,
    );
    response.json(rows);
  });

  router.get('/:id', async (request, response) => {
    const { rows } = await pool.query<Sample>(
      'SELECT id, name, note, event, records FROM samples WHERE id = $1',
      [request.params.id],
    );
    if (!rows[0]) throw notFound('such sample');
    response.json(rows[0]);
  });

  router.post('/', async (request, response) => {
    const { run, name } = parsed(taking, request.body);
    const { rows } = await pool.query<{ event: ChangeEvent; met: StoredRecord[] }>(
      'SELECT event, met FROM runs WHERE id = $1 AND event IS NOT NULL',
      [run],
    );
    const [taken] = rows;
    if (!taken) throw notFound('such run');
    const id = uuid();
    await pool.query('INSERT INTO samples (id, name, note, event, records) VALUES ($1, $2, $3, $4, $5)', [
      id,
      name,
      `Taken from run ${run}.`,
      JSON.stringify(taken.event),
      JSON.stringify(withOwnRecord(taken.event, taken.met)),
    ]);
    await tell(pool, { kind: 'sample', id });
    response.status(201).json({ id });
  });

  router.delete('/:id', async (request, response) => {
    const { rowCount } = await pool.query('DELETE FROM samples WHERE id = $1', [request.params.id]);
    if (rowCount === 0) throw notFound('such sample');
    await tell(pool, { kind: 'sample', id: request.params.id });
    response.status(204).end();
  });
  return router;
}

/** The triggering record belongs to a sample even when no rule read it, so that an edited rule can write to it. */
function withOwnRecord(
  { ref, record, kind }: ChangeEvent,
  met: readonly StoredRecord[],
): readonly StoredRecord[] {
  const there = met.some(
    (stored) =>
      stored.ref.system === ref.system &&
      stored.ref.recordType === ref.recordType &&
      stored.ref.id === ref.id,
  );
  return there || kind === 'deleted' ? met : [{ ref, record }, ...met];
}
