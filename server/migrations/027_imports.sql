-- Work that came from another environment: what came, what was taken of it, and how that stood before, so that it can be taken back as one.
CREATE TABLE imports (
  id uuid PRIMARY KEY,
  at timestamptz NOT NULL DEFAULT now(),
  by text NOT NULL,
  files text[] NOT NULL,
  -- Whether rules that ran where they came from run here since.
  running boolean NOT NULL,
  undone_at timestamptz,
  undone_by text
);
CREATE TABLE import_items (
  import_id uuid NOT NULL REFERENCES imports ON DELETE CASCADE,
  -- The order in which they were done; taking back goes the other way.
  place integer NOT NULL,
  kind text NOT NULL CHECK (kind IN ('system', 'address', 'table', 'rule', 'sample')),
  key text NOT NULL,
  name text NOT NULL,
  took boolean NOT NULL,
  -- How it stood, as JSON; absent where it was not there.
  before jsonb,
  -- What came, as text in one form: how it last was in both environments.
  content text NOT NULL,
  -- The version of a rule that runs since; absent where none does. Whatever somebody put in force later is theirs.
  published integer,
  PRIMARY KEY (import_id, kind, key)
);
CREATE INDEX import_items_of_key ON import_items (kind, key);
