-- Rules that are held beside the records that exist again and again, only to look: when, and what was found.
CREATE TABLE drift_watches (
  rule_id uuid PRIMARY KEY REFERENCES rules ON DELETE CASCADE,
  -- The time of the day, the zone, and the days of the week.
  schedule jsonb NOT NULL,
  asked_by text NOT NULL,
  asked_at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE drift_looks (
  rule_id uuid NOT NULL REFERENCES drift_watches ON DELETE CASCADE,
  -- The minute for which it was due.
  due timestamptz NOT NULL,
  -- The look; its records are forgotten after some more.
  reconcile uuid NOT NULL UNIQUE,
  -- Once it has ended: how many records stand how, and how many are out of step that were not at the look before.
  counts jsonb,
  fresh bigint,
  -- Why it could not be done.
  problem text,
  PRIMARY KEY (rule_id, due)
);
