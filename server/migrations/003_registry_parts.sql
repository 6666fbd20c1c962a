-- Each thing that runs are computed with has a revision of its own, so that a process renews only what changed. It is counted up in
-- the transaction that changes the thing: whoever reads a revision reads what belongs to it.

CREATE TABLE registry_items (
  part text NOT NULL CHECK (part IN ('system', 'table', 'rule', 'endpoint')),
  name text NOT NULL,
  revision bigint NOT NULL DEFAULT nextval('registry_revision'),
  PRIMARY KEY (part, name)
);

INSERT INTO registry_items (part, name) SELECT 'system', key FROM systems;
INSERT INTO registry_items (part, name) SELECT 'table', name FROM tables;
INSERT INTO registry_items (part, name) SELECT 'rule', id::text FROM rules WHERE published IS NOT NULL;
INSERT INTO registry_items (part, name) SELECT 'endpoint', key FROM endpoints;

CREATE FUNCTION touch_registry(touched text, names text[]) RETURNS void LANGUAGE sql AS $$
  INSERT INTO registry_items (part, name) SELECT touched, name FROM unnest(names) AS given (name) ORDER BY name
  ON CONFLICT (part, name) DO UPDATE SET revision = nextval('registry_revision')
$$;

-- The part and the column with the name are the arguments of the trigger.
CREATE FUNCTION touch_changed() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  names text[];
BEGIN
  EXECUTE format('SELECT array_agg(DISTINCT %I::text) FROM changed', TG_ARGV[1]) INTO names;
  IF names IS NOT NULL THEN PERFORM touch_registry(TG_ARGV[0], names); END IF;
  RETURN NULL;
END $$;

-- Of a rule only what is published counts, and its place among the others.
CREATE FUNCTION touch_published() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  names text[];
BEGIN
  SELECT array_agg(now.id::text) INTO names FROM changed AS now JOIN before USING (id)
  WHERE (now.published, now.position) IS DISTINCT FROM (before.published, before.position);
  IF names IS NOT NULL THEN PERFORM touch_registry('rule', names); END IF;
  RETURN NULL;
END $$;

CREATE TRIGGER system_inserted AFTER INSERT ON systems REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'key');
CREATE TRIGGER system_updated AFTER UPDATE ON systems REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'key');
CREATE TRIGGER system_removed AFTER DELETE ON systems REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'key');

CREATE TRIGGER secret_inserted AFTER INSERT ON secrets REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'system');
CREATE TRIGGER secret_updated AFTER UPDATE ON secrets REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'system');
CREATE TRIGGER secret_removed AFTER DELETE ON secrets REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('system', 'system');

CREATE TRIGGER table_inserted AFTER INSERT ON tables REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'name');
CREATE TRIGGER table_updated AFTER UPDATE ON tables REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'name');
CREATE TRIGGER table_removed AFTER DELETE ON tables REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'name');

CREATE TRIGGER row_inserted AFTER INSERT ON table_rows REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'table_name');
CREATE TRIGGER row_updated AFTER UPDATE ON table_rows REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'table_name');
CREATE TRIGGER row_removed AFTER DELETE ON table_rows REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('table', 'table_name');

CREATE TRIGGER rule_inserted AFTER INSERT ON rules REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('rule', 'id');
CREATE TRIGGER rule_updated AFTER UPDATE ON rules REFERENCING OLD TABLE AS before NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_published();
CREATE TRIGGER rule_removed AFTER DELETE ON rules REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('rule', 'id');

CREATE TRIGGER endpoint_inserted AFTER INSERT ON endpoints REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('endpoint', 'key');
CREATE TRIGGER endpoint_updated AFTER UPDATE ON endpoints REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('endpoint', 'key');
CREATE TRIGGER endpoint_removed AFTER DELETE ON endpoints REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION touch_changed('endpoint', 'key');

-- Screens are still told of every change; that a process has to renew something is read from the revisions.
CREATE OR REPLACE FUNCTION bump_registry() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('vast_knot', json_build_object('kind', 'registry', 'of', TG_TABLE_NAME)::text);
  RETURN NULL;
END $$;
