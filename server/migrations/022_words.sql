-- A value is found without asking any system: of each image what it holds, in small letters, with an index of all parts of three letters.
CREATE TABLE image_words (
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL,
  words text NOT NULL,
  PRIMARY KEY (system, record_type, record_id)
);
CREATE INDEX image_words_parts ON image_words USING gin (words gin_trgm_ops);

-- Images that are another one than when their words were kept. Noting it is all that whoever keeps an image waits for.
CREATE TABLE images_unread (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  system text NOT NULL,
  record_type text NOT NULL,
  record_id text NOT NULL
);
INSERT INTO images_unread (system, record_type, record_id) SELECT system, record_type, record_id FROM images;

CREATE FUNCTION note_images() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO images_unread (system, record_type, record_id) SELECT system, record_type, record_id FROM changed;
  RETURN NULL;
END $$;

-- What was noted of our own writes, and digests, change no value.
CREATE FUNCTION note_changed_images() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO images_unread (system, record_type, record_id)
  SELECT system, record_type, record_id FROM changed JOIN before USING (system, record_type, record_id)
  WHERE (changed.record, changed.gone, changed.removed) IS DISTINCT FROM (before.record, before.gone, before.removed);
  RETURN NULL;
END $$;

CREATE TRIGGER image_inserted AFTER INSERT ON images REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION note_images();
CREATE TRIGGER image_updated AFTER UPDATE ON images REFERENCING OLD TABLE AS before NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_images();
CREATE TRIGGER image_deleted AFTER DELETE ON images REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION note_images();

-- Everything that a record holds, a value to a line, and numbers that look like those of telephones once more as digits alone.
CREATE FUNCTION words_of(id text, record jsonb) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT lower(normalize(left(concat_ws(E'\n', id, string_agg(held, E'\n'),
    string_agg(ltrim(regexp_replace(held, '\D', '', 'g'), '0'), E'\n') FILTER (WHERE held ~ '^[+0-9(][0-9 ().\-/]{6,40}$')), 20000), NFC))
  FROM (SELECT value #>> '{}' AS held FROM jsonb_path_query(record, 'strict $.**') AS value
        WHERE jsonb_typeof(value) IN ('string', 'number')) AS parts
$$;
