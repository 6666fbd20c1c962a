-- How people call what came in: what only asks for something to be written is no change of its record.
CREATE FUNCTION run_kind(kind text, source text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE source WHEN '/vast-knot/existing' THEN 'reconciled' WHEN '/vast-knot/taking-back' THEN 'taken back' ELSE kind END
$$;
CREATE INDEX inbox_of_kind ON inbox (run_kind(kind, source), id) WHERE result IS DISTINCT FROM 'own write';

-- The first run that came at a time or later. Runs come in their order, but for a few that are taken in at the same moment, so that it is
-- found by halving and needs no index.
CREATE FUNCTION run_at(at timestamptz) RETURNS bigint LANGUAGE plpgsql STABLE AS $$
DECLARE
  low bigint;
  high bigint;
  middle bigint;
  came timestamptz;
BEGIN
  SELECT min(id), max(id) + 1 INTO low, high FROM inbox;
  WHILE low < high LOOP
    middle := (low + high) / 2;
    SELECT received_at INTO came FROM inbox WHERE id >= middle ORDER BY id LIMIT 1;
    IF came >= at THEN high := middle; ELSE low := middle + 1; END IF;
  END LOOP;
  RETURN low;
END $$;

-- When the plan in force was computed.
ALTER TABLE runs ADD COLUMN computed_at timestamptz;
