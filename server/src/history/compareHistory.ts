import type { ChangeEvent, HistoryComparison, StoredRecord } from '@vast-knot/core';
import type { Pool } from '../db/pool';

/** Runs read at a time. */
const pageSize = 200;

/** Takes the last events of the inbox through a comparison, newest first, until there are enough or it is stopped. */
export async function compareHistory(
  pool: Pool,
  comparison: HistoryComparison,
  wanted: number,
  stopped: () => boolean,
): Promise<void> {
  let before: string | null = null;
  for (let taken = 0; taken < wanted && !stopped();) {
    const page: { rows: { id: string; event: ChangeEvent; met: StoredRecord[] }[] } = await pool.query(
      `SELECT id, event, met FROM runs
       WHERE event IS NOT NULL AND report IS NOT NULL AND ($1::bigint IS NULL OR id < $1)
       ORDER BY id DESC LIMIT $2`,
      [before, Math.min(pageSize, wanted - taken)],
    );
    for (const { id, event, met } of page.rows) {
      if (stopped()) return;
      await comparison.take(id, event, met);
      // Others get their turn: the same process takes events and answers.
      await new Promise((done) => setImmediate(done));
    }
    taken += page.rows.length;
    before = page.rows.at(-1)?.id ?? null;
    if (page.rows.length < pageSize) return;
  }
}
