CREATE TABLE users (
  name text PRIMARY KEY,
  password_hash text NOT NULL,
  role text NOT NULL CHECK (role IN ('administrator', 'reader'))
);

CREATE TABLE sessions (
  sid text PRIMARY KEY,
  sess json NOT NULL,
  expire timestamptz NOT NULL
);
CREATE INDEX sessions_expire ON sessions (expire);

-- Counts up with every change of systems, tables or published rules, so that a worker knows when to compile anew.
CREATE SEQUENCE registry_revision;

CREATE FUNCTION bump_registry() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM nextval('registry_revision');
  PERFORM pg_notify('vast_knot', json_build_object('kind', 'registry', 'of', TG_TABLE_NAME)::text);
  RETURN NULL;
END $$;

CREATE TABLE systems (
  key text PRIMARY KEY,
  position integer NOT NULL,
  definition jsonb NOT NULL,
  -- How it is spoken to; an inlet, through which rows of files and answers of forms come, only has events.
  connection jsonb NOT NULL
);
CREATE TRIGGER systems_changed AFTER INSERT OR UPDATE OR DELETE ON systems FOR EACH STATEMENT EXECUTE FUNCTION bump_registry();

-- Values are sealed with the key of the installation; they never leave the server.
CREATE TABLE secrets (
  system text NOT NULL REFERENCES systems ON DELETE CASCADE,
  name text NOT NULL,
  sealed bytea NOT NULL,
  PRIMARY KEY (system, name)
);

CREATE TABLE tables (
  name text PRIMARY KEY,
  definition jsonb NOT NULL
);
CREATE TRIGGER tables_changed AFTER INSERT OR UPDATE OR DELETE ON tables FOR EACH STATEMENT EXECUTE FUNCTION bump_registry();

-- One JSON array of cells for each row, in the order of the table's columns.
CREATE TABLE table_rows (
  id bigint GENERATED ALWAYS AS IDENTITY,
  table_name text NOT NULL REFERENCES tables ON DELETE CASCADE,
  cells jsonb NOT NULL,
  PRIMARY KEY (table_name, id)
);
CREATE TRIGGER table_rows_changed AFTER INSERT OR UPDATE OR DELETE ON table_rows FOR EACH STATEMENT EXECUTE FUNCTION bump_registry();

-- What was done to a table, by whom; the changes can be taken back.
CREATE TABLE table_changes (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  table_name text NOT NULL REFERENCES tables ON DELETE CASCADE,
  at timestamptz NOT NULL DEFAULT now(),
  by text NOT NULL,
  what text NOT NULL,
  changes jsonb NOT NULL
);
CREATE INDEX table_changes_of ON table_changes (table_name, id);

CREATE TABLE rules (
  id uuid PRIMARY KEY,
  position integer NOT NULL,
  draft jsonb NOT NULL,
  -- Guards the draft against two people who edit it at once.
  revision integer NOT NULL DEFAULT 1,
  published integer,
  changed_at timestamptz NOT NULL DEFAULT now()
);
CREATE TRIGGER rules_changed AFTER INSERT OR UPDATE OR DELETE ON rules FOR EACH STATEMENT EXECUTE FUNCTION bump_registry();

CREATE TABLE rule_versions (
  rule_id uuid NOT NULL REFERENCES rules ON DELETE CASCADE,
  version integer NOT NULL,
  body jsonb NOT NULL,
  published_by text NOT NULL,
  published_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (rule_id, version)
);

CREATE TABLE samples (
  id uuid PRIMARY KEY,
  name text NOT NULL,
  note text NOT NULL,
  tags text[] NOT NULL DEFAULT '{}',
  event jsonb NOT NULL,
  records jsonb NOT NULL,
  -- The fields whose values are masked, and have to be in what is read for it later; null where none is.
  masked text[],
  -- What its outcome must be; null while nobody has said.
  expected jsonb,
  created_at timestamptz NOT NULL DEFAULT now()
);

-- Everything that came in, also what could not be taken. `event` is there once the envelope has been read.
CREATE TABLE inbox (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  system text NOT NULL,
  source text,
  event_id text,
  record_type text,
  record_id text,
  kind text,
  event jsonb,
  body text,
  state text NOT NULL CHECK (state IN ('waiting', 'done', 'failed', 'malformed', 'refused')),
  because text,
  attempts integer NOT NULL DEFAULT 0,
  next_at timestamptz NOT NULL DEFAULT now(),
  received_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX inbox_once ON inbox (source, event_id) WHERE state IN ('waiting', 'done', 'failed');
CREATE INDEX inbox_of_record ON inbox (system, record_type, record_id, id);
CREATE INDEX inbox_waiting ON inbox (system, record_type, record_id, id) WHERE state = 'waiting';

-- The last state seen of every record, with our own writes whose events have not come back yet.
CREATE TABLE images (
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  record jsonb NOT NULL,
  echoes jsonb NOT NULL DEFAULT '[]',
  -- We removed it ourselves; the event that tells so has not come yet.
  removed boolean NOT NULL DEFAULT false,
  PRIMARY KEY (system, record_type, record_id)
);

-- Pairs of records in two systems that are the same thing.
CREATE TABLE counterparts (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  a_system text NOT NULL,
  a_type text NOT NULL,
  a_id text NOT NULL,
  b_system text NOT NULL,
  b_type text NOT NULL,
  b_id text NOT NULL,
  revision integer NOT NULL DEFAULT 1,
  -- The write that remembered it.
  key uuid,
  UNIQUE (a_system, a_type, a_id, b_system, b_type, b_id)
);
CREATE INDEX counterparts_back ON counterparts (b_system, b_type, b_id, a_system, a_type);

-- Changes that wait to be folded with what follows, one for each rule and record.
CREATE TABLE waiting_changes (
  rule_id uuid NOT NULL,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  -- The latest of them; its before image is that of the first.
  event jsonb NOT NULL,
  first_id text NOT NULL,
  folded integer NOT NULL DEFAULT 1,
  since timestamptz NOT NULL DEFAULT now(),
  due timestamptz NOT NULL,
  PRIMARY KEY (rule_id, system, record_type, record_id)
);

-- Outside addresses that messages are sent to.
CREATE TABLE endpoints (
  key text PRIMARY KEY,
  name text NOT NULL,
  url text NOT NULL,
  sealed bytea NOT NULL
);
CREATE TRIGGER endpoints_changed AFTER INSERT OR UPDATE OR DELETE ON endpoints FOR EACH STATEMENT EXECUTE FUNCTION bump_registry();

CREATE TABLE runs (
  id bigint PRIMARY KEY REFERENCES inbox,
  state text NOT NULL CHECK (state IN ('running', 'waiting', 'done')),
  result text CHECK (result IN ('wrote', 'nothing', 'own write', 'partly failed', 'failed')),
  because text NOT NULL DEFAULT '',
  -- The event with what it changed, as derived from the image; for our own writes, which changed nothing, none is kept twice.
  event jsonb,
  report jsonb,
  met jsonb NOT NULL DEFAULT '[]',
  plans integer NOT NULL DEFAULT 0,
  rules_fired text[] NOT NULL DEFAULT '{}',
  -- Who asked for no more of its writes to be sent.
  stopped_by text,
  started_at timestamptz NOT NULL DEFAULT now(),
  finished_at timestamptz
);

-- Planned before it is sent, so that a killed worker loses nothing and sends nothing twice. Its rows stay narrow and its
-- indexes without the state, since every row is written twice.
CREATE TABLE writes (
  run_id bigint NOT NULL REFERENCES runs,
  plan integer NOT NULL,
  seq integer NOT NULL,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  -- What stood for the id of a record that is created, until its system gave it one.
  planned_id text,
  key uuid NOT NULL,
  state text NOT NULL CHECK (state IN ('planned', 'written', 'failed', 'conflict', 'refused', 'skipped')),
  problem text,
  written_at timestamptz,
  PRIMARY KEY (run_id, plan, seq),
  -- A record that is created keeps its key from plan to plan, so that it is created once.
  UNIQUE (key, plan)
) WITH (fillfactor = 60);
CREATE INDEX writes_of_record ON writes (system, record_type, record_id, run_id);
CREATE INDEX creating_writes ON writes (run_id) WHERE planned_id IS NOT NULL;

-- What each write was planned to do: kept once and never changed.
CREATE TABLE planned_writes (
  run_id bigint NOT NULL,
  plan integer NOT NULL,
  seq integer NOT NULL,
  planned jsonb NOT NULL,
  PRIMARY KEY (run_id, plan, seq)
);

-- Writes that were sent and whose results are not noted yet.
CREATE TABLE flights (
  run_id bigint NOT NULL,
  plan integer NOT NULL,
  seq integer NOT NULL,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  creates boolean NOT NULL,
  sent_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (run_id, plan, seq)
);
CREATE INDEX flights_of_record ON flights (system, record_type, record_id) WHERE NOT creates;
CREATE INDEX flights_creating ON flights (system, record_type) WHERE creates;

-- Messages to outside endpoints, stored with the end of the run that sends them.
CREATE TABLE messages (
  id uuid PRIMARY KEY,
  -- In the order in which they were stored.
  seq bigint GENERATED ALWAYS AS IDENTITY,
  run_id bigint NOT NULL REFERENCES runs,
  rule text NOT NULL,
  endpoint text NOT NULL,
  type text NOT NULL,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  body jsonb NOT NULL,
  state text NOT NULL CHECK (state IN ('waiting', 'delivered', 'given up')),
  attempts integer NOT NULL DEFAULT 0,
  next_at timestamptz NOT NULL DEFAULT now(),
  created_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX messages_latest ON messages (seq);
CREATE INDEX messages_of_run ON messages (run_id);
CREATE INDEX messages_waiting ON messages (endpoint, system, record_type, record_id, seq) WHERE state = 'waiting';

-- Every try to deliver a message, with what the receiver answered.
CREATE TABLE message_attempts (
  message_id uuid NOT NULL REFERENCES messages ON DELETE CASCADE,
  attempt integer NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  status integer,
  answer text,
  problem text,
  PRIMARY KEY (message_id, attempt)
);

-- Worker processes and the name under which the job queue knows each; a row whose lock is free belongs to a dead one.
CREATE TABLE worker_processes (
  lock_key integer PRIMARY KEY,
  pool_id text
);
