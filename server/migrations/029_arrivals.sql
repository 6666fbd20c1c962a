-- Files that came in: as they came, how they are laid out, and what each of their records would do.
CREATE TABLE arrivals (
  id uuid PRIMARY KEY,
  name text NOT NULL,
  bytes bigint NOT NULL DEFAULT 0,
  -- SHA-256 of the file as it came, in hexadecimal; null until it is here as a whole.
  digest text,
  way text NOT NULL CHECK (way IN ('page', 'address')),
  sent_by text NOT NULL,
  came_at timestamptz NOT NULL DEFAULT now(),
  -- What its records become. No reference: the file stays while its inlet is taken out.
  system text,
  record_type text,
  -- As JSON, and not jsonb, so that names stay in the order of the file.
  layout json,
  revision integer NOT NULL DEFAULT 1,
  -- Its first records, as they were read.
  head json,
  -- Values typed here in the place of those of the file: by row and field.
  mends jsonb NOT NULL DEFAULT '{}',
  -- The last look: its job, and the revision that it saw.
  look uuid,
  looked_revision integer
);
CREATE INDEX arrivals_by_time ON arrivals (came_at DESC);
CREATE INDEX arrivals_by_digest ON arrivals (digest);

CREATE TABLE arrival_parts (
  arrival uuid NOT NULL REFERENCES arrivals ON DELETE CASCADE,
  n integer NOT NULL,
  bytes bytea NOT NULL,
  PRIMARY KEY (arrival, n)
);

CREATE TABLE arrival_rows (
  arrival uuid NOT NULL REFERENCES arrivals ON DELETE CASCADE,
  at integer NOT NULL,
  place text NOT NULL,
  -- The record as the file has it; null where it could not be read, and then the text of it.
  value json,
  text text,
  record_id text,
  standing text NOT NULL CHECK (standing IN ('create', 'change', 'nothing', 'cannot')),
  because text,
  differences jsonb,
  -- The first row of the file with the same key.
  same_key_as integer,
  applied_before timestamptz,
  chosen_by uuid,
  run_id bigint,
  PRIMARY KEY (arrival, at)
);
CREATE INDEX arrival_rows_of_standing ON arrival_rows (arrival, standing, at);
CREATE INDEX arrival_rows_of_key ON arrival_rows (record_id) WHERE run_id IS NOT NULL;
CREATE INDEX arrival_rows_chosen ON arrival_rows (chosen_by, at) WHERE chosen_by IS NOT NULL;

-- How files of a kind are laid out as a rule: the next one begins with it.
CREATE TABLE layouts (
  system text NOT NULL,
  record_type text NOT NULL,
  kind text NOT NULL,
  layout json NOT NULL,
  changed_by text NOT NULL,
  changed_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (system, record_type, kind)
);

-- Whoever could send a file whose rows were applied at once may still see it and have it applied.
UPDATE roles SET rights = rights || ARRAY['files.read', 'files.apply'] WHERE 'files.send' = ANY (rights);
UPDATE tokens SET rights = rights || ARRAY['files.read', 'files.apply'] WHERE 'files.send' = ANY (rights);
