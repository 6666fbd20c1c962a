/**
 * How people read an event, as parts of a statement over `inbox` and `runs`: what only asks for something to be written is no change of its
 * record.
 */
export const toldAs = {
  kind: 'run_kind(inbox.kind, inbox.source)',
  changed: `CASE WHEN runs.event ?| ARRAY['existing', 'brings'] THEN '[]'::jsonb ELSE coalesce(runs.event->'changed', '[]') END`,
} as const;

/** Whether an event tells that its record changed in its system; see `tellsOfChange`. */
export const tellsOfChange = `NOT (runs.event ?| ARRAY['rule', 'undoes'])`;

/** Returns a statement that gives the runs for many records of which one is a certain record. */
export function runsForMany(system: string, recordType: string, id: string): string {
  return `SELECT run_id AS id FROM reconciles JOIN reconcile_records ON reconcile = reconciles.id
    WHERE (rule->'trigger'->>'system', rule->'trigger'->>'recordType', reconcile_records.record_id) = (${system}, ${recordType}, ${id})
      AND together AND run_id IS NOT NULL`;
}
