-- What a plan holds is a change of a record: { kind, ref, … }. Until now a write told the same by edits, creates and removes.
-- Rules that asked for it are named with id and version.

CREATE FUNCTION record_of_edits(edits jsonb) RETURNS jsonb LANGUAGE plpgsql AS $$
DECLARE
  record jsonb := '{}';
  edit jsonb;
  steps text[];
BEGIN
  FOR edit IN SELECT * FROM jsonb_array_elements(edits) LOOP
    steps := string_to_array(edit->>'path', '.');
    FOR depth IN 1 .. array_length(steps, 1) - 1 LOOP
      IF jsonb_typeof(record #> steps[1:depth]) IS DISTINCT FROM 'object' THEN
        record := jsonb_set(record, steps[1:depth], '{}');
      END IF;
    END LOOP;
    record := jsonb_set(record, steps, coalesce(edit->'after', 'null'));
  END LOOP;
  RETURN record;
END $$;

-- The rules of a report by name; of several of one name the first.
CREATE FUNCTION rules_named(report jsonb, names jsonb) RETURNS jsonb LANGUAGE sql AS $$
  SELECT coalesce(jsonb_agg(coalesce(
    (SELECT jsonb_build_object('id', rule->'ruleId', 'name', rule->'ruleName', 'version', rule->'version')
     FROM jsonb_array_elements(report->'rules') AS rule WHERE rule->>'ruleName' = name LIMIT 1),
    (SELECT jsonb_build_object('id', id, 'name', name, 'version', coalesce(published, 0))
     FROM rules WHERE draft->>'name' = name LIMIT 1),
    jsonb_build_object('id', '', 'name', name, 'version', 0)) ORDER BY place), '[]')
  FROM jsonb_array_elements_text(names) WITH ORDINALITY AS asked (name, place)
$$;

UPDATE planned_writes SET planned =
  (planned - 'ref' - 'edits' - 'creates' - 'removes')
  || jsonb_build_object(
    'change',
    jsonb_build_object('ref', planned->'ref') || CASE
      WHEN planned ? 'creates' THEN jsonb_build_object('kind', 'create', 'record', record_of_edits(planned->'edits'))
      WHEN planned ? 'removes' THEN jsonb_build_object('kind', 'remove', 'record', planned->'before')
      ELSE jsonb_build_object('kind', 'edit', 'edits', planned->'edits')
    END,
    'rules',
    rules_named((SELECT report FROM runs WHERE runs.id = run_id), planned->'rules'))
WHERE planned ? 'ref';

-- Messages of a run that has not ended yet.
UPDATE runs SET report = jsonb_set(report, '{messages}', (
  SELECT jsonb_agg(message || jsonb_build_object('rule', rules_named(report, jsonb_build_array(message->'rule'))->0) ORDER BY place)
  FROM jsonb_array_elements(report->'messages') WITH ORDINALITY AS sent (message, place)))
WHERE jsonb_array_length(report->'messages') > 0 AND jsonb_typeof(report->'messages'->0->'rule') = 'string';

ALTER TABLE messages ADD COLUMN rule_id uuid, ADD COLUMN rule_version integer;

DROP FUNCTION rules_named(jsonb, jsonb);
DROP FUNCTION record_of_edits(jsonb);

-- A connection says of which kind it is.
UPDATE systems SET connection = connection
  || jsonb_build_object('kind', CASE WHEN connection ? 'recordTypes' THEN 'http' ELSE 'inlet' END)
WHERE NOT connection ? 'kind';
