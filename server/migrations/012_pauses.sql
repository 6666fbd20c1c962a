-- A rule can be paused, and everything at once: what comes waits in order, and goes on or is dropped.
ALTER TABLE rules ADD COLUMN paused_at timestamptz, ADD COLUMN paused_by text;
ALTER TABLE installation ADD COLUMN paused_at timestamptz, ADD COLUMN paused_by text;

-- Changes that would start a rule which is paused, in the order in which they came.
CREATE TABLE held_changes (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  rule_id uuid NOT NULL REFERENCES rules ON DELETE CASCADE,
  -- The event that led to it, so that a run that is tried again holds it once.
  source text NOT NULL,
  event_id text NOT NULL,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  event jsonb NOT NULL,
  since timestamptz NOT NULL DEFAULT now(),
  UNIQUE (rule_id, source, event_id, system, record_type, record_id)
);

ALTER TABLE runs
  DROP CONSTRAINT runs_result_check,
  ADD CONSTRAINT runs_result_check
    CHECK (result IN ('wrote', 'nothing', 'own write', 'late', 'dropped', 'partly failed', 'failed'));

-- Of a rule what is published counts, its place among the others, and whether it is paused.
CREATE OR REPLACE FUNCTION touch_published() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  names text[];
BEGIN
  SELECT array_agg(now.id::text) INTO names FROM changed AS now JOIN before USING (id)
  WHERE (now.published, now.position, now.paused_at) IS DISTINCT FROM (before.published, before.position, before.paused_at);
  IF names IS NOT NULL THEN PERFORM touch_registry('rule', names); END IF;
  RETURN NULL;
END $$;
