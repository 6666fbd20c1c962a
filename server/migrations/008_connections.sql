-- How far the changes of each record type were learnt, where its system is asked for them, or its records are compared.
CREATE TABLE listening (
  -- It stays, as images do, while the system is taken out.
  system text NOT NULL,
  record_type text NOT NULL,
  -- The greatest mark of a change that was seen: a number, or milliseconds since 1970.
  mark double precision,
  asked_at timestamptz,
  asked_found integer,
  compared_at timestamptz,
  compared_found integer,
  problem text,
  PRIMARY KEY (system, record_type)
);

-- Nothing is asked of a system that is paused, and what is told of it waits.
ALTER TABLE systems ADD COLUMN paused boolean NOT NULL DEFAULT false;

-- Connections that are being written; nothing of them works before they are started.
CREATE TABLE connection_drafts (
  id uuid PRIMARY KEY,
  -- The system that it changes; none for a new one.
  system text REFERENCES systems ON DELETE CASCADE,
  -- The system that was taken out, to which it is the way back.
  way_back text,
  revision integer NOT NULL DEFAULT 1,
  draft jsonb NOT NULL,
  changed_by text NOT NULL,
  changed_at timestamptz NOT NULL DEFAULT now(),
  -- It can be put back for some days.
  discarded_at timestamptz
);

CREATE TABLE draft_secrets (
  draft uuid NOT NULL REFERENCES connection_drafts ON DELETE CASCADE,
  name text NOT NULL,
  sealed bytea NOT NULL,
  PRIMARY KEY (draft, name)
);

-- The newest exchanges with each system, for a day.
CREATE TABLE exchanges (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  system text NOT NULL REFERENCES systems ON DELETE CASCADE,
  -- What we asked of it; or a message that came from it, and whether it was taken.
  what text NOT NULL DEFAULT 'asked' CHECK (what IN ('asked', 'taken', 'refused')),
  exchange jsonb NOT NULL,
  kept_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX exchanges_of_system ON exchanges (system, what, id DESC);

-- The secret of an outside address before the present one signs as well, until then.
ALTER TABLE endpoints ADD COLUMN former bytea, ADD COLUMN former_until timestamptz;

-- What stands for a record that is as the image says: so records are compared without reading what is known of them.
ALTER TABLE images ADD COLUMN digest bigint;

-- What a system says of its record types is looked at each night, beside what is known of them here.
ALTER TABLE system_states
  ADD COLUMN schema_looked_at timestamptz,
  ADD COLUMN schema_changes integer,
  ADD COLUMN schema_problem text;

-- What was compared until now, type by type.
INSERT INTO listening (system, record_type, compared_at)
SELECT key, type ->> 'name', learnt_at FROM systems JOIN system_states ON system = key,
  jsonb_array_elements(definition -> 'recordTypes') AS type
WHERE learnt_at IS NOT NULL
ON CONFLICT DO NOTHING;
