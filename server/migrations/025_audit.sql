-- Who did what. Each entry is kept as the text that its hash was made of, beside what it is found by; the hash covers the entry before it,
-- so that none can be changed, put in or taken out without all after it being others.
CREATE TABLE audit (
  -- Counts up without gaps.
  id bigint PRIMARY KEY,
  entry text NOT NULL,
  hash bytea NOT NULL,
  at timestamptz NOT NULL,
  person text NOT NULL,
  what text NOT NULL,
  kind text NOT NULL,
  key text NOT NULL
);
CREATE INDEX audit_person ON audit (person, id DESC);
CREATE INDEX audit_thing ON audit (kind, key, id DESC);
CREATE INDEX audit_at ON audit (at);
CREATE EXTENSION IF NOT EXISTS pg_trgm;
CREATE INDEX audit_text ON audit USING gin (entry gin_trgm_ops);

-- Entries come one after the other: each waits for the one before it to be there.
CREATE FUNCTION append_audit(said text) RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE
  former record;
  number bigint;
  parts jsonb := said::jsonb;
BEGIN
  PERFORM pg_advisory_xact_lock(4618);
  SELECT audit.id, audit.hash INTO former FROM audit ORDER BY audit.id DESC LIMIT 1;
  number := coalesce(former.id, 0) + 1;
  INSERT INTO audit (id, entry, hash, at, person, what, kind, key)
  VALUES (
    number, said, sha256(coalesce(former.hash, ''::bytea) || convert_to(number || E'\n' || said, 'UTF8')),
    (parts ->> 'at')::timestamptz, parts ->> 'person', parts ->> 'what', parts ->> 'kind', parts ->> 'key'
  );
  RETURN number;
END $$;

CREATE FUNCTION audit_stays() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'What was done stays written down.';
END $$;
CREATE TRIGGER audit_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON audit FOR EACH STATEMENT EXECUTE FUNCTION audit_stays();

-- What somebody began to do, with how things stood before. It becomes an entry when it is done, or when it is clear that nobody is at it any more.
CREATE TABLE acts_begun (
  id uuid PRIMARY KEY,
  entry jsonb NOT NULL,
  before jsonb,
  began_at timestamptz NOT NULL DEFAULT now()
);
