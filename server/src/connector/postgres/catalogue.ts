import { notedChanges, type CatalogueTable } from '@vast-knot/core';
import type { Database } from './database';

/** A catalogue with more tables than so many is read as far. */
const mostTables = 2000;

/**
 * Reads which tables and views there are that the user may read, with what the database knows of them (PostgreSQL's documentation, chapter
 * 53, System Catalogs). Its own, and what we note in, are left out.
 */
export async function readCatalogue(database: Database): Promise<readonly CatalogueTable[]> {
  const { rows } = await database.run({ sql: statement, values: [notedChanges] });
  return rows.map(([table]) => table as unknown as CatalogueTable);
}

const statement = `
WITH chosen AS (
  SELECT c.oid, n.nspname, c.relname, c.relkind, c.reltuples
  FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
  WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
    AND n.nspname <> 'information_schema' AND n.nspname NOT LIKE 'pg\\_%' AND c.relname <> $1
    AND has_schema_privilege(n.oid, 'USAGE') AND has_any_column_privilege(c.oid, 'SELECT')
  ORDER BY n.nspname, c.relname LIMIT ${mostTables}
), keys AS (
  SELECT k.conrelid, k.confrelid, k.contype,
    (SELECT jsonb_agg(a.attname ORDER BY c.at) FROM unnest(k.conkey) WITH ORDINALITY c (num, at)
      JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = c.num) AS names,
    (SELECT jsonb_agg(a.attname ORDER BY c.at) FROM unnest(k.confkey) WITH ORDINALITY c (num, at)
      JOIN pg_attribute a ON a.attrelid = k.confrelid AND a.attnum = c.num) AS to_names
  FROM pg_constraint k JOIN chosen ON chosen.oid = k.conrelid WHERE k.contype IN ('p', 'u', 'f')
)
SELECT jsonb_build_object(
  'schema', nspname, 'table', relname,
  'kind', CASE WHEN relkind IN ('v', 'm', 'f') THEN 'view' ELSE 'table' END,
  'comment', coalesce(obj_description(oid, 'pg_class'), ''),
  'rows', CASE WHEN reltuples < 0 THEN 0 ELSE reltuples::bigint END,
  'mayCreate', relkind <> 'm' AND has_any_column_privilege(oid, 'INSERT') AND pg_relation_is_updatable(oid, true) & 8 > 0,
  'mayChange', relkind <> 'm' AND has_any_column_privilege(oid, 'UPDATE') AND pg_relation_is_updatable(oid, true) & 4 > 0,
  'mayRemove', relkind <> 'm' AND has_table_privilege(oid, 'DELETE') AND pg_relation_is_updatable(oid, true) & 16 > 0,
  'columns', (
    SELECT coalesce(jsonb_agg(jsonb_build_object(
      'name', a.attname, 'written', format_type(a.atttypid, a.atttypmod), 'type', base.typname,
      'length', CASE WHEN base.typname IN ('varchar', 'bpchar') AND modifier > 0 THEN modifier - 4 END,
      'precision', CASE WHEN base.typname = 'numeric' AND modifier > 0 THEN (modifier - 4) >> 16 END,
      'scale', CASE WHEN base.typname = 'numeric' AND modifier > 0 THEN (modifier - 4) & 65535 END,
      'notNull', a.attnotnull OR t.typnotnull, 'hasDefault', a.atthasdef OR a.attidentity <> '' OR t.typdefault IS NOT NULL,
      'computed', a.attgenerated <> '' OR a.attidentity = 'a',
      'mayWrite', has_column_privilege(chosen.oid, a.attnum, 'INSERT') OR has_column_privilege(chosen.oid, a.attnum, 'UPDATE'),
      'values', (SELECT jsonb_agg(e.enumlabel ORDER BY e.enumsortorder) FROM pg_enum e WHERE e.enumtypid = base.oid),
      'comment', coalesce(col_description(chosen.oid, a.attnum), '')
    ) ORDER BY a.attnum), '[]')
    FROM pg_attribute a JOIN pg_type t ON t.oid = a.atttypid
      JOIN pg_type base ON base.oid = CASE WHEN t.typtype = 'd' THEN t.typbasetype ELSE t.oid END,
      LATERAL (SELECT CASE WHEN t.typtype = 'd' THEN t.typtypmod ELSE a.atttypmod END AS modifier) m
    WHERE a.attrelid = chosen.oid AND a.attnum > 0 AND NOT a.attisdropped AND has_column_privilege(chosen.oid, a.attnum, 'SELECT')
  ),
  'key', coalesce((SELECT names FROM keys WHERE conrelid = chosen.oid AND contype = 'p'), '[]'),
  'unique', coalesce((SELECT jsonb_agg(names) FROM keys WHERE conrelid = chosen.oid AND contype = 'u'), '[]'),
  'checks', coalesce((SELECT jsonb_agg(pg_get_constraintdef(k.oid) ORDER BY k.conname) FROM pg_constraint k
    WHERE k.contype = 'c' AND k.conrelid = chosen.oid), '[]'),
  'references', coalesce((
    SELECT jsonb_agg(jsonb_build_object('columns', r.names, 'schema', rn.nspname, 'table', rc.relname, 'toColumns', r.to_names))
    FROM keys r JOIN pg_class rc ON rc.oid = r.confrelid JOIN pg_namespace rn ON rn.oid = rc.relnamespace
    WHERE r.conrelid = chosen.oid AND r.contype = 'f'
  ), '[]')
)
FROM chosen`;
