import type { CoverageView, TableGap } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** What a look at one table found. */
export interface FoundGap {
  readonly table: string;
  /** Keys that records hold, and no row has. */
  readonly uncovered: number;
  readonly rules: readonly string[];
}

/** Keeps what a look at a table found; nothing of one that is gone by now. */
export async function keepGap(runner: Runner, { table, uncovered, rules }: FoundGap): Promise<void> {
  await runner.query(
    `INSERT INTO table_gaps (table_name, uncovered, rules) SELECT name, $2, $3 FROM tables WHERE name = $1
     ON CONFLICT (table_name) DO UPDATE SET uncovered = EXCLUDED.uncovered, rules = EXCLUDED.rules, looked_at = now()`,
    [table, uncovered, rules],
  );
}

/** Returns the tables in which values were missing when they were looked at last. */
export async function readGaps(runner: Runner): Promise<readonly TableGap[]> {
  const { rows } = await runner.query<TableGap>(
    `SELECT table_name AS "table", uncovered, rules, looked_at AS "lookedAt" FROM table_gaps WHERE uncovered > 0 ORDER BY uncovered DESC`,
  );
  return rows;
}

/** Returns what the places where a table is looked up come to together. */
export function gapOf(table: string, views: readonly CoverageView[]): FoundGap {
  const lacking = views.filter(({ uncovered }) => uncovered.length > 0);
  return {
    table,
    uncovered: Math.max(0, ...lacking.map(({ uncovered }) => uncovered.length)),
    rules: [...new Set(lacking.map(({ rule }) => rule.name))],
  };
}

/** Asks for a table to be looked at a moment after its rows changed; one look for changes that follow one another. */
export async function queueLookAtTable(runner: Runner, table: string): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('look_at_tables', json_build_object('table', $1::text), job_key := 'table/' || $1,
       run_at := now() + interval '5 seconds', max_attempts := 3)`,
    [table],
  );
}
