-- Answers of forms: as they were sent, what they came to, and the run that each began.
CREATE TABLE form_answers (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  system text NOT NULL,
  record_type text NOT NULL,
  came_at timestamptz NOT NULL DEFAULT now(),
  way text NOT NULL CHECK (way IN ('page', 'address')),
  -- Who sent it with a token; blank for somebody outside.
  sent_by text NOT NULL DEFAULT '',
  -- What tells a page that is sent twice from two pages.
  pass text,
  given json NOT NULL,
  -- What it came to; null while it cannot be taken.
  record jsonb,
  problems jsonb NOT NULL DEFAULT '[]',
  left_out jsonb NOT NULL DEFAULT '[]',
  run_id bigint
);
CREATE INDEX form_answers_by_form ON form_answers (system, record_type, id DESC);
CREATE UNIQUE INDEX form_answers_once ON form_answers (pass) WHERE pass IS NOT NULL;
CREATE INDEX form_answers_by_time ON form_answers (came_at);
