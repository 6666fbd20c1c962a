import type { TableGap } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** What a look at one table found. */
export interface FoundGap {
  readonly table: string;
  /** Keys that records hold, and no row has. */
  readonly uncovered: number;
  readonly rules: readonly string[];
}

/** Keeps what looks at tables found; of a table that is gone by now nothing. */
export async function keepGaps(runner: Runner, found: readonly FoundGap[]): Promise<void> {
  await runner.query(
    `INSERT INTO table_gaps (table_name, uncovered, rules)
     SELECT name, uncovered, ARRAY(SELECT json_array_elements_text(found.rules))
     FROM json_to_recordset($1::json) AS found ("table" text, uncovered integer, rules json) JOIN tables ON name = "table"
     ON CONFLICT (table_name) DO UPDATE SET uncovered = EXCLUDED.uncovered, rules = EXCLUDED.rules, looked_at = now()`,
    [JSON.stringify(found)],
  );
}

/** Returns the tables in which values were missing when they were looked at last. */
export async function readGaps(runner: Runner): Promise<readonly TableGap[]> {
  const { rows } = await runner.query<TableGap>(
    `SELECT table_name AS "table", uncovered, rules, looked_at AS "lookedAt" FROM table_gaps WHERE uncovered > 0 ORDER BY uncovered DESC`,
  );
  return rows;
}
