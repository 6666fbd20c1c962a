-- The records of a look that are right already, those of one page together: most are, and nothing more is told of them.
CREATE TABLE reconcile_right (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  reconcile uuid NOT NULL REFERENCES reconciles ON DELETE CASCADE,
  -- How many records were looked at before: a page that is looked at again after a kill is kept once.
  before bigint NOT NULL,
  ids text[] NOT NULL,
  -- What people call them; blank where they have no name.
  names text[] NOT NULL,
  UNIQUE (reconcile, before)
);
CREATE INDEX reconcile_right_of ON reconcile_right (reconcile, id);
