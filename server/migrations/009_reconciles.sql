-- Rules beside the records that exist: how each record stands, and what was written of it.
CREATE TABLE reconciles (
  id uuid PRIMARY KEY,
  rule_id uuid NOT NULL,
  -- As it was looked at; version 0 is the rule as edited.
  rule jsonb NOT NULL,
  existing text NOT NULL,
  asked_by text NOT NULL,
  looked_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX reconciles_latest ON reconciles (looked_at DESC);
CREATE INDEX reconciles_of_rule ON reconciles (rule_id, looked_at DESC);

CREATE TABLE reconcile_records (
  seq bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  reconcile uuid NOT NULL REFERENCES reconciles ON DELETE CASCADE,
  record_id text NOT NULL,
  name text,
  standing text NOT NULL,
  because text,
  -- The reason without what makes it that of one record.
  cause text,
  differences jsonb,
  -- The job that is to write it.
  chosen_by uuid,
  -- The event that writes it, and its run.
  run_id bigint,
  -- Why it was not written though it was chosen.
  skipped text,
  UNIQUE (reconcile, record_id)
);
CREATE INDEX reconcile_records_standing ON reconcile_records (reconcile, standing, seq);
CREATE INDEX reconcile_records_chosen ON reconcile_records (chosen_by, seq) WHERE chosen_by IS NOT NULL;

-- What a job waits for just now.
ALTER TABLE jobs ADD COLUMN waits text;
