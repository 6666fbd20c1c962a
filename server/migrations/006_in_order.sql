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
