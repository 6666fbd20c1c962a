-- What a list of hundreds of rules needs: folders, who edited last, and a way back from removing one. A publication says why.
ALTER TABLE rules
  -- Blank for rules in no folder.
  ADD COLUMN folder text NOT NULL DEFAULT '',
  -- Who saved the draft last; unknown for what was saved before.
  ADD COLUMN changed_by text,
  ADD COLUMN removed_at timestamptz,
  ADD COLUMN removed_by text,
  -- The version that ran when it was removed: it runs again when the rule is brought back.
  ADD COLUMN removed_version integer;
ALTER TABLE rule_versions ADD COLUMN note text NOT NULL DEFAULT '';

-- Each time that somebody made a rule stop running, with the reason.
CREATE TABLE rule_stops (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  rule_id uuid NOT NULL REFERENCES rules ON DELETE CASCADE,
  version integer NOT NULL,
  stopped_by text NOT NULL,
  stopped_at timestamptz NOT NULL DEFAULT now(),
  why text NOT NULL
);
CREATE INDEX rule_stops_of_rule ON rule_stops (rule_id, id);
