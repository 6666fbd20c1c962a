-- Long work: each has a row, tells how far it has come, can be paused and cancelled, and is taken up by another process when the
-- one that does it is gone.
CREATE TABLE jobs (
  id uuid PRIMARY KEY,
  kind text NOT NULL,
  -- What was asked for, and by whom.
  asked jsonb NOT NULL,
  asked_by text NOT NULL,
  state text NOT NULL CHECK (state IN ('waiting', 'at work', 'paused', 'done', 'cancelled', 'failed')),
  -- What a person asked of it while it is at work.
  wish text CHECK (wish IN ('pause', 'cancel')),
  done bigint NOT NULL DEFAULT 0,
  total bigint,
  -- Where it stands: what is needed to go on from here, and what was found so far.
  memory jsonb,
  problem text,
  -- The process that does it.
  owner text,
  created_at timestamptz NOT NULL DEFAULT now(),
  started_at timestamptz,
  finished_at timestamptz
);
CREATE INDEX jobs_latest ON jobs (created_at DESC);
