import { NotUnpacked, type FileRow, type Json } from '@vast-knot/core';
import { breath } from '../compute/breath';
import type { Pool } from '../db/pool';
import { beginJob, readJob } from '../jobs/repository';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { holding } from '../reconcile/holding';
import type { Registry } from '../registry/registry';
import { applyFileKind, type ApplyAsked } from './apply';
import { countChosen } from './choosing';
import { forgetRows, keepRows, noteRepeats, type LookedRow } from './keptRows';
import { readArrival } from './repository';
import { judgeLaid, layRow, readyArrival, recordsOf, type ReadyArrival } from './rows';

/** Rows that are judged side by side and kept together: what they ask of a system in the same moment is asked once. */
const atOnce = 100;
/** How long a step takes: then it is kept how far the look came, and heard whether to go on. */
const stepMs = 400;

interface Memory {
  /** Records that were looked at. */
  readonly done: number;
}

/** Which file is looked at, and whether what can be applied is applied then, by which job and in whose name. */
export interface LookAsked {
  readonly arrival: string;
  readonly apply?: { readonly job: string; readonly by: string };
}

/** Goes through all records of a file, and keeps what each would do. Nothing is written to any system. */
export const lookAtFileKind: JobKind = {
  kind: 'look at a file',

  async open(asked, memory, { pool, registry }) {
    const { arrival: id, apply } = asked as unknown as LookAsked;
    const kept = await readArrival(pool, id);
    if (!kept) throw new JobEnds('The file is not kept any more.');
    // What we kept ourselves has the shape in which we kept it.
    let { done } = (memory as unknown as Memory | null) ?? { done: 0 };
    if (memory === null) await forgetRows(pool, id);
    const standsAt = (ended = false) => ({
      memory: { done } satisfies Memory as unknown as Json,
      done,
      total: ended ? done : null,
    });
    /** The records from there on. */
    let rows: AsyncIterator<FileRow> | undefined;
    /** Records that were read and are not judged yet: a system that is away for a while does not have them read again. */
    let waiting: FileRow[] = [];
    let isRead = false;

    const lookOn = async () => {
      const current = await registry.get();
      const found = readyArrival(kept, current);
      if (!found.ok) throw new JobEnds(found.because);
      const { ready } = found;
      rows ??= await skipped(recordsOf(pool, ready)[Symbol.asyncIterator](), done);
      const until = performance.now() + stepMs;
      do {
        while (waiting.length < atOnce && !isRead) {
          const next = await rows.next();
          if (next.done === true) isRead = true;
          else waiting.push(next.value);
        }
        await keepRows(pool, id, await judgeRows(current, ready, waiting));
        done += waiting.length;
        waiting = [];
      } while (!isRead && performance.now() < until);
      if (isRead) await noteRepeats(pool, id);
      if (isRead && apply) await beginApplying(pool, id, apply);
      return { ...standsAt(isRead), ended: isRead };
    };
    return {
      step: () =>
        holding(standsAt(), () =>
          lookOn().catch((thrown: unknown) => {
            if (thrown instanceof NotUnpacked) throw new JobEnds(thrown.message);
            throw thrown;
          }),
        ),
    };
  },
};

/** Begins to apply what can be; once, whatever is killed. */
async function beginApplying(
  pool: Pool,
  id: string,
  { job, by }: NonNullable<LookAsked['apply']>,
): Promise<void> {
  const choice = {};
  if ((await readJob(pool, job)) || (await countChosen(pool, id, choice)) === 0) return;
  const asked: ApplyAsked = { arrival: id, job, choice };
  await beginJob(pool, { id: job, kind: applyFileKind.kind, asked: asked as unknown as Json, by });
}

/** Passes over records that were looked at before. */
async function skipped(rows: AsyncIterator<FileRow>, count: number): Promise<AsyncIterator<FileRow>> {
  for (let n = 0; n < count; n++) await rows.next();
  return rows;
}

async function judgeRows(
  registry: Registry,
  ready: ReadyArrival,
  rows: readonly FileRow[],
): Promise<readonly LookedRow[]> {
  const pause = breath();
  return Promise.all(
    rows.map(async (row): Promise<LookedRow> => {
      const { at, place } = row;
      if (!row.ok) {
        const { because, text } = row;
        return { at, place, value: null, text, recordId: null, standing: 'cannot', because, differences: [] };
      }
      const { value } = row;
      const laid = layRow(ready, { at, value });
      const judged = await judgeLaid(registry, ready, at, laid, pause);
      return { at, place, value, text: null, recordId: laid.key ?? null, ...judged };
    }),
  );
}
