import type { Catalog, ResultRow } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { recordsWrittenBy, type WrittenRecord } from '../runs/outcome';
import { listRows, type KeptRow } from './keptRows';

/** Rows that are read at a time. */
const atOnce = 500;

/** Returns what became of every row of a file, in their order. */
export async function* resultsOf(pool: Pool, id: string, catalog: Catalog): AsyncGenerator<ResultRow> {
  let after = -1;
  for (;;) {
    const rows = await listRows(pool, id, {}, { after, limit: atOnce });
    const runs = rows.flatMap(({ run }) => (run ? [run.id] : []));
    const written = await recordsWrittenBy(pool, runs);
    for (const row of rows) {
      const records = (row.run && written.get(row.run.id)) ?? [];
      yield {
        place: row.place,
        value: row.value,
        text: row.text ?? '',
        says: saidOf(row, records, catalog),
        ids: records.map((record) => record.id).join(' '),
      };
    }
    const last = rows.at(-1);
    if (!last || rows.length < atOnce) return;
    after = last.at;
  }
}

/** Returns what became of a row, as a sentence for whoever sent it. */
function saidOf(
  { run, standing, because, place }: KeptRow,
  written: readonly WrittenRecord[],
  catalog: Catalog,
): string {
  if (!run) {
    if (standing === 'cannot') return `${place} was not taken: ${because}`;
    return standing === 'nothing' ? `There was nothing to do. ${because}`.trim() : 'Not applied.';
  }
  if (run.state === 'waiting') return 'It is under way.';
  if (run.state === 'failed') return `It failed: ${run.because}`;
  if (written.length === 0) return 'Applied; everything was as it should be.';
  const told = (records: readonly WrittenRecord[]) =>
    records
      .map(
        ({ system, recordType, id }) =>
          `${catalog.recordType(system, recordType)?.label ?? recordType} ${id}`,
      )
      .join(', ');
  const [created, changed] = [
    written.filter((each) => each.created),
    written.filter((each) => !each.created),
  ];
  return [
    ...(created.length > 0 ? [`Created ${told(created)}.`] : []),
    ...(changed.length > 0 ? [`Changed ${told(changed)}.`] : []),
  ].join(' ');
}
