-- Where files come from by themselves: addresses that are asked at certain times, and folders that are watched.
CREATE TABLE file_sources (
  id uuid PRIMARY KEY,
  definition jsonb NOT NULL,
  -- What its header carries, sealed; null where it wants none.
  sealed bytea,
  revision integer NOT NULL DEFAULT 1,
  changed_by text NOT NULL,
  changed_at timestamptz NOT NULL DEFAULT now(),
  -- Since when a file is expected as it is said now.
  expected_since timestamptz NOT NULL DEFAULT now(),
  looked_at timestamptz,
  -- Why the last look found nothing; null where it went well.
  problem text,
  -- Since when a file is missing that was expected; null where none is.
  missing_since timestamptz
);

-- What was taken, by name: a file that changed since is taken again.
CREATE TABLE file_sources_taken (
  source uuid NOT NULL REFERENCES file_sources ON DELETE CASCADE,
  name text NOT NULL,
  -- What tells a file from its next version: size and time of a file, digest and tag of what was fetched.
  mark text NOT NULL,
  taken_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (source, name)
);

ALTER TABLE arrivals DROP CONSTRAINT arrivals_way_check;
ALTER TABLE arrivals ADD CONSTRAINT arrivals_way_check CHECK (way IN ('page', 'address', 'fetched', 'folder'));
-- The source that it came from. No reference: the file stays while its source is taken out.
ALTER TABLE arrivals ADD COLUMN source uuid;
CREATE INDEX arrivals_by_source ON arrivals (source, came_at DESC) WHERE source IS NOT NULL;
