-- What comes late is known to be late, also where a system counts no versions, and after a record was removed.
ALTER TABLE images
  -- The time of the newest event that told of the record.
  ADD COLUMN told_at timestamptz,
  -- It was removed; the image is what it was last.
  ADD COLUMN gone boolean NOT NULL DEFAULT false;

ALTER TABLE runs
  DROP CONSTRAINT runs_result_check,
  ADD CONSTRAINT runs_result_check CHECK (result IN ('wrote', 'nothing', 'own write', 'late', 'partly failed', 'failed')),
  -- At which try of its event the plan in force was made; a later try makes another.
  ADD COLUMN planned_try integer NOT NULL DEFAULT 0;

-- How each system stands: whether it answers, whether it tells us of its changes, and up to when it was asked what changed meanwhile.
CREATE TABLE system_states (
  system text PRIMARY KEY REFERENCES systems ON DELETE CASCADE,
  standing text NOT NULL DEFAULT 'answers' CHECK (standing IN ('answers', 'slow', 'limited', 'away')),
  since timestamptz,
  because text NOT NULL DEFAULT '',
  next_try timestamptz,
  milliseconds integer,
  answered_at timestamptz,
  -- It was asked to send its events to us, and took it.
  subscribed_at timestamptz,
  subscribe_problem text,
  -- Its records were read once, so that what is new later is known to be new.
  learnt_at timestamptz,
  caught_up_at timestamptz
);
-- Installations of before have learnt their records already.
INSERT INTO system_states (system, learnt_at) SELECT DISTINCT system, now() FROM images JOIN systems ON key = system;

-- The system that an event waits for; what waits is no failed try, and goes on when the system answers.
ALTER TABLE inbox ADD COLUMN waits_for text;
CREATE INDEX inbox_waits_for ON inbox (waits_for, id) WHERE state = 'waiting' AND waits_for IS NOT NULL;
CREATE INDEX inbox_latest_of_system ON inbox (system, id);

-- What is known of the installation as a whole: one row.
CREATE TABLE installation (
  only_one boolean PRIMARY KEY DEFAULT true CHECK (only_one),
  -- Where systems and browsers reach it; told by the process that answers there.
  url text
);
INSERT INTO installation DEFAULT VALUES;
CREATE INDEX inbox_oldest_waiting ON inbox (id) WHERE state = 'waiting';

-- What the list of runs filters by and searches stands in one table, with its indexes; the runs themselves are read for what is shown.
CREATE EXTENSION IF NOT EXISTS pg_trgm;
ALTER TABLE inbox
  ADD COLUMN result text,
  ADD COLUMN record_name text,
  -- It failed, or a part of it did: it is kept longer.
  ADD COLUMN trouble boolean NOT NULL DEFAULT false;
UPDATE inbox SET result = runs.result, trouble = coalesce(runs.result IN ('failed', 'partly failed'), false) FROM runs
WHERE runs.id = inbox.id;
UPDATE inbox SET record_name = event->'record'->>(type->>'nameField')
FROM systems, jsonb_array_elements(systems.definition->'recordTypes') AS type
WHERE systems.key = inbox.system AND type->>'name' = inbox.record_type AND event IS NOT NULL;

CREATE FUNCTION run_words(record_id text, record_name text, because text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT lower(coalesce(record_id, '') || ' ' || coalesce(record_name, '') || ' ' || coalesce(because, ''))
$$;
-- Our own writes that came back, the most of them all, are found by the id of their record alone.
CREATE INDEX inbox_words ON inbox USING gin (run_words(record_id, record_name, because) gin_trgm_ops)
  WHERE result IS DISTINCT FROM 'own write';
CREATE INDEX inbox_not_own ON inbox (id) WHERE result IS DISTINCT FROM 'own write';
CREATE INDEX inbox_of_id ON inbox (record_id, id);
CREATE INDEX inbox_of_result ON inbox (result, id) WHERE result IS DISTINCT FROM 'own write';
CREATE INDEX inbox_not_done ON inbox (state, id) WHERE state <> 'done';
CREATE INDEX runs_of_rule ON runs USING gin (rules_fired);

-- What is old goes, in parts that cost the same however much stays; counts by day and rule remain.
CREATE INDEX inbox_to_clear ON inbox (received_at) WHERE state <> 'waiting' AND NOT trouble;
CREATE INDEX inbox_trouble_to_clear ON inbox (received_at) WHERE state <> 'waiting' AND trouble;
CREATE TABLE run_counts (
  day date NOT NULL,
  system text NOT NULL,
  -- The rule that wrote or failed; blank for runs of which none did.
  rule_id text NOT NULL,
  result text NOT NULL,
  count bigint NOT NULL,
  PRIMARY KEY (day, system, rule_id, result)
);
ALTER TABLE images ADD COLUMN gone_at timestamptz;
CREATE INDEX images_gone ON images (gone_at) WHERE gone_at IS NOT NULL;
