-- Who changed something last, so that whoever comes second is told whom to ask.
ALTER TABLE samples ADD COLUMN changed_by text;
ALTER TABLE endpoints ADD COLUMN changed_by text;

-- Who has what open at this moment, by the tab of their browser. It is of the moment, and may be gone after a crash.
CREATE UNLOGGED TABLE presence (
  tab uuid PRIMARY KEY,
  person text NOT NULL,
  kind text NOT NULL,
  key text NOT NULL,
  seen_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX presence_at ON presence (kind, key, seen_at);
