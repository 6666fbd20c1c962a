import { refKey, type UndoPreview, type UndoRecord, type UndoStanding } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { Registry } from '../registry/registry';
import { changedSince, fieldKey } from '../runs/outcome';
import { undoingOf, type ToUndo } from './undoRun';

/** Records that a preview shows; the others are counted. */
const mostShown = 500;
/** Messages that a preview names. */
const mostMessages = 100;

/** Returns what taking back what runs wrote would do, as the records are now, and who changed what would stay. The runs are the last of `ofRuns`. */
export async function previewUndo(
  pool: Pool,
  registry: Registry,
  asked: ToUndo,
  ofRuns = asked.runs.length,
): Promise<UndoPreview> {
  const { records, lastRun } = await undoingOf(pool, registry, asked);
  const of = (standing: UndoStanding) => records.filter((record) => record.standing === standing).length;
  // What stays comes first: it is what a person has to know.
  const shown = [...records].sort((a, b) => Number(isWhole(a)) - Number(isWhole(b))).slice(0, mostShown);
  const changed = shown.flatMap(({ ref, fields }) =>
    fields
      .filter(({ standing }) => standing === 'changed since')
      .map(({ path }) => ({
        run: lastRun.get(refKey(ref)) ?? '0',
        ref,
        path,
      })),
  );
  const changers = await changedSince(pool, changed);
  const { rows: messages } = await pool.query<UndoPreview['messages'][number]>(
    `SELECT id, type, endpoint FROM messages WHERE run_id = ANY ($1) ORDER BY id LIMIT ${mostMessages}`,
    [asked.runs],
  );
  return {
    records: shown.map((record) => ({
      ...record,
      fields: record.fields.map((field) => ({
        ...field,
        by: changers.get(fieldKey({ ref: record.ref, path: field.path })) ?? null,
      })),
    })),
    back: of('goes back'),
    inPart: records.filter((record) => record.standing === 'goes back' && !isWhole(record)).length,
    stays: of('changed since'),
    isBack: of('is back'),
    messages,
    runs: asked.runs.length,
    ofRuns,
  };
}

/** Returns whether nothing of a record stays as somebody else made it. */
function isWhole({ standing, fields }: UndoRecord): boolean {
  return standing !== 'changed since' && fields.every((field) => field.standing !== 'changed since');
}
