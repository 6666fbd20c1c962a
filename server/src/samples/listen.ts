import Joi from 'joi';
import { eventKinds, type HeardEvent } from '@vast-knot/core';
import type { Runner } from '../db/pool';

interface Listening {
  readonly system: string;
  readonly recordType: string;
  readonly kind?: string;
  /** The last event that had come in when the listening began. */
  readonly after?: string;
}

export const listening = Joi.object<Listening>({
  system: Joi.string().max(80).required(),
  recordType: Joi.string().max(80).required(),
  kind: Joi.valid(...eventKinds),
  after: Joi.string().pattern(/^\d{1,18}$/),
});

/**
 * The first event of a kind that came in after another one and was dealt with; our own writes that came back are none. Without
 * `after` it is told where the inbox stands, to listen from there.
 */
export async function nextEvent(
  runner: Runner,
  { system, recordType, kind, after }: Listening,
): Promise<HeardEvent> {
  if (after === undefined) {
    const { rows } = await runner.query<{ last: string }>('SELECT coalesce(max(id), 0) AS last FROM inbox');
    return { after: rows[0]?.last ?? '0', run: null };
  }
  const { rows } = await runner.query<{ id: string }>(
    `SELECT inbox.id FROM inbox JOIN runs USING (id)
     WHERE inbox.id > $1 AND inbox.system = $2 AND record_type = $3 AND ($4::text IS NULL OR runs.event->>'kind' = $4)
       AND runs.report IS NOT NULL AND runs.result IS DISTINCT FROM 'own write' AND inbox.state <> 'waiting'
     ORDER BY inbox.id LIMIT 1`,
    [after, system, recordType, kind ?? null],
  );
  return { after, run: rows[0]?.id ?? null };
}
