CREATE TABLE records (
  type text NOT NULL,
  id text NOT NULL,
  version integer NOT NULL,
  doc jsonb NOT NULL,
  updated_at timestamptz NOT NULL,
  PRIMARY KEY (type, id)
);

CREATE TABLE ids (
  type text PRIMARY KEY,
  last bigint NOT NULL
);

-- The answer to every write that came with an idempotency key, so that it is given again and not done again.
CREATE TABLE answers (
  key text PRIMARY KEY,
  answer jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE subscriptions (
  id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  url text NOT NULL UNIQUE,
  secret text NOT NULL
);

-- Written in the transaction of the change that it tells of.
CREATE TABLE outbox (
  seq bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  subscription_id integer NOT NULL REFERENCES subscriptions ON DELETE CASCADE,
  record_key text NOT NULL,
  event jsonb NOT NULL,
  attempts integer NOT NULL DEFAULT 0,
  next_at timestamptz NOT NULL DEFAULT now(),
  state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'delivered', 'refused')),
  answer text
);
CREATE INDEX outbox_waiting ON outbox (seq) WHERE state = 'waiting';
CREATE INDEX outbox_held_back ON outbox (subscription_id, record_key) WHERE state = 'waiting' AND attempts > 0;

CREATE TABLE dials (
  one boolean PRIMARY KEY DEFAULT true CHECK (one),
  latency_ms integer NOT NULL DEFAULT 0,
  error_rate double precision NOT NULL DEFAULT 0,
  requests_per_second integer,
  outage boolean NOT NULL DEFAULT false
);
INSERT INTO dials DEFAULT VALUES;
