import type { TableStyle } from './databaseConnection';

/** What the table, the function and the trigger are called that note changes; the channel on which they tell. */
export const notedChanges = 'noted_changes';
const noteChange = 'note_change';

/** Returns a name as SQL takes it, whatever stands in it. */
export function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

/** Returns schema and name of a table, as SQL takes them. */
export function qualified({ schema, table }: Pick<TableStyle, 'schema' | 'table'>): string {
  return `${quoted(schema)}.${quoted(table)}`;
}

const textOf = (value: string) => `'${value.replaceAll("'", "''")}'`;

/**
 * Returns the statements that let a database note the changes of a table by itself, for us to fetch: a table for what is noted, one for all
 * tables of the schema, and a trigger; whoever runs them, `user` may fetch what is noted. A row that gets another key is noted as one that
 * went and one that came.
 */
export function notingStatements(
  style: TableStyle,
  { key, user }: { readonly key: string; readonly user: string },
): readonly string[] {
  const notes = qualified({ schema: style.schema, table: notedChanges });
  const note = qualified({ schema: style.schema, table: noteChange });
  const table = qualified(style);
  return [
    `CREATE TABLE IF NOT EXISTS ${notes} (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  noted_at timestamptz NOT NULL DEFAULT clock_timestamp(),
  of_table text NOT NULL,
  kind text NOT NULL,
  content jsonb NOT NULL
)`,
    `CREATE OR REPLACE FUNCTION ${note}() RETURNS trigger LANGUAGE plpgsql
SECURITY DEFINER SET search_path = pg_catalog, pg_temp SET timezone = 'UTC' AS $note$
DECLARE moved boolean := TG_OP = 'UPDATE' AND to_jsonb(OLD)->TG_ARGV[0] IS DISTINCT FROM to_jsonb(NEW)->TG_ARGV[0];
BEGIN
  IF TG_OP = 'DELETE' OR moved THEN
    INSERT INTO ${notes} (of_table, kind, content) VALUES (TG_TABLE_NAME, 'deleted', to_jsonb(OLD));
  END IF;
  IF TG_OP <> 'DELETE' THEN
    INSERT INTO ${notes} (of_table, kind, content)
    VALUES (TG_TABLE_NAME, CASE WHEN TG_OP = 'INSERT' OR moved THEN 'created' ELSE 'updated' END, to_jsonb(NEW));
  END IF;
  PERFORM pg_notify(${textOf(notedChanges)}, TG_TABLE_SCHEMA);
  RETURN NULL;
END $note$`,
    `DROP TRIGGER IF EXISTS ${noteChange} ON ${table}`,
    `CREATE TRIGGER ${noteChange} AFTER INSERT OR UPDATE OR DELETE ON ${table}
FOR EACH ROW EXECUTE FUNCTION ${note}(${textOf(key)})`,
    `GRANT SELECT, DELETE ON ${notes} TO ${quoted(user)}`,
  ];
}

/** Returns the statements that end it for a table. What was noted of other tables stays. */
export function notingEndStatements(style: TableStyle): readonly string[] {
  return [`DROP TRIGGER IF EXISTS ${noteChange} ON ${qualified(style)}`];
}
