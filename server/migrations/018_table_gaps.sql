-- How many keys that records hold have no row in a table, as it was when it was looked at last.
CREATE TABLE table_gaps (
  table_name text PRIMARY KEY REFERENCES tables ON DELETE CASCADE ON UPDATE CASCADE,
  looked_at timestamptz NOT NULL DEFAULT now(),
  uncovered integer NOT NULL,
  -- The rules that look it up, by name.
  rules text[] NOT NULL
);
