/**
 * How people read an event, as parts of a statement over `inbox` and `runs`: what only asks for something to be written is no change of its
 * record.
 */
export const toldAs = {
  kind: 'run_kind(inbox.kind, inbox.source)',
  changed: `CASE WHEN runs.event ? 'existing' THEN '[]'::jsonb ELSE coalesce(runs.event->'changed', '[]') END`,
} as const;

/** Whether an event tells that its record changed in its system; see `tellsOfChange`. */
export const tellsOfChange = `NOT (runs.event ?| ARRAY['rule', 'undoes'])`;
