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
