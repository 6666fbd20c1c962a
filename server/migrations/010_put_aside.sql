-- Causes of failures that somebody put aside, with a note: they are not shown among those that need a person.
CREATE TABLE put_aside (
  -- The reason without what makes it that of one record.
  cause text PRIMARY KEY,
  note text NOT NULL,
  by text NOT NULL,
  at timestamptz NOT NULL DEFAULT now()
);
