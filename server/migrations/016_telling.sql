-- Who is told when something needs a person: one row, once somebody said so.
CREATE TABLE telling (
  only_one boolean PRIMARY KEY DEFAULT true CHECK (only_one),
  settings jsonb NOT NULL,
  changed_by text NOT NULL,
  changed_at timestamptz NOT NULL DEFAULT now()
);

-- What needs a person, each thing once; when it was told, by each way.
CREATE TABLE alerts (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key text NOT NULL UNIQUE,
  kind text NOT NULL,
  what text NOT NULL,
  -- Where it is seen, below the address of the installation.
  place text NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  address_at timestamptz,
  mail_at timestamptz
);
CREATE INDEX alerts_latest ON alerts (at);

-- The last tries to tell, with what went wrong.
CREATE TABLE told (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  at timestamptz NOT NULL DEFAULT now(),
  way text NOT NULL CHECK (way IN ('address', 'mail')),
  alerts integer NOT NULL,
  test boolean NOT NULL,
  problem text
);
