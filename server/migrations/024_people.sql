-- Who may sign in. What somebody may do is the list of rights of their role, read with each request.
ALTER TABLE users RENAME TO people;
ALTER TABLE people DROP CONSTRAINT users_role_check;
UPDATE people SET role = 'viewer' WHERE role = 'reader';

CREATE TABLE roles (
  key text PRIMARY KEY,
  -- Absent for the roles that every environment has: what these are and may is said by the program.
  name text,
  says text,
  rights text[],
  -- Whoever has it cannot do anything before they have a second factor.
  second_factor boolean NOT NULL DEFAULT false,
  revision integer NOT NULL DEFAULT 1
);
INSERT INTO roles (key) VALUES ('viewer'), ('editor'), ('publisher'), ('administrator');

ALTER TABLE people
  ADD COLUMN full_name text NOT NULL DEFAULT '',
  ADD COLUMN mail text NOT NULL DEFAULT '',
  ADD COLUMN made_at timestamptz NOT NULL DEFAULT now(),
  ADD COLUMN made_by text NOT NULL DEFAULT '',
  -- They chose it themselves; until then it is that of the settings, where these name them.
  ADD COLUMN own_password boolean NOT NULL DEFAULT false,
  -- Since when they cannot sign in.
  ADD COLUMN stopped_at timestamptz,
  ADD COLUMN seen_at timestamptz,
  -- The sealed secret of their time-based codes (RFC 6238), and the last step of time whose code was taken: each is taken once.
  ADD COLUMN code_secret bytea,
  ADD COLUMN code_step bigint NOT NULL DEFAULT 0,
  ADD FOREIGN KEY (role) REFERENCES roles;

-- Links with which somebody joins, or gives themselves another password: each works once, and not for long.
CREATE TABLE invitations (
  id uuid PRIMARY KEY,
  -- SHA-256 of what stands in the link.
  hash bytea NOT NULL UNIQUE,
  kind text NOT NULL CHECK (kind IN ('join', 'password')),
  -- Whom it is for: a name that is still free, or that of a person.
  name text NOT NULL,
  mail text NOT NULL DEFAULT '',
  role text REFERENCES roles,
  made_at timestamptz NOT NULL DEFAULT now(),
  made_by text NOT NULL,
  ends_at timestamptz NOT NULL
);

-- With which programs ask, in the name of a person and with some of their rights.
CREATE TABLE tokens (
  id uuid PRIMARY KEY,
  person text NOT NULL REFERENCES people ON DELETE CASCADE,
  name text NOT NULL,
  -- SHA-256 of the token, which has 256 bits of chance.
  hash bytea NOT NULL UNIQUE,
  rights text[] NOT NULL,
  made_at timestamptz NOT NULL DEFAULT now(),
  ends_at timestamptz NOT NULL,
  used_at timestamptz,
  used_from text
);
CREATE INDEX tokens_of_person ON tokens (person);

CREATE INDEX sessions_of_person ON sessions ((sess -> 'user' ->> 'name'));

-- How often somebody tried to sign in lately, by account and by address, as the limiter counts: milliseconds since 1970.
CREATE TABLE attempts (
  key varchar(255) PRIMARY KEY,
  points integer NOT NULL DEFAULT 0,
  expire bigint
);

-- How this environment is called, so that nobody takes the trial for the real one, and what it asks of people.
CREATE TABLE environment (
  one boolean PRIMARY KEY DEFAULT true CHECK (one),
  name text NOT NULL DEFAULT '',
  colour text NOT NULL DEFAULT 'plain',
  -- Publishing wants a second person.
  second_person boolean NOT NULL DEFAULT false,
  revision integer NOT NULL DEFAULT 1
);
INSERT INTO environment DEFAULT VALUES;

-- Where publishing wants a second person: that one asked for a draft of this revision to be published. It is void once the draft moves on.
CREATE TABLE publishing_asked (
  rule_id uuid PRIMARY KEY REFERENCES rules ON DELETE CASCADE,
  revision integer NOT NULL,
  asked_by text NOT NULL,
  note text NOT NULL,
  asked_at timestamptz NOT NULL DEFAULT now()
);
