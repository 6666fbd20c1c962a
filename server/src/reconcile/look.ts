import { readPath, type Json } from '@vast-knot/core';
import type { JobKind } from '../jobs/runJob';
import { JobEnds } from '../jobs/runJob';
import { holding } from './holding';
import { judgeAll, judgingRule } from './judging';
import { keepJudged, readReconcile } from './repository';

/** Records that are looked at in one step. */
const pageSize = 500;

/** Where a look stands. */
interface Memory {
  /** The cursor of the next page; absent for the first. */
  readonly cursor?: string;
  readonly done: number;
  readonly total: number | null;
}

/** Goes through all records of the type of a rule, and keeps how each stands. Nothing is written to any system. */
export const lookKind: JobKind = {
  kind: 'look at what exists',

  async open(asked, memory, { pool, registry }) {
    const { reconcile: id } = asked as { reconcile: string };
    const kept = await readReconcile(pool, id);
    if (!kept) throw new JobEnds('What was looked at is forgotten by now.');
    const { rule, existing, lookedAt } = kept;
    const { system, recordType } = rule.trigger;
    // What we kept ourselves has the shape in which we kept it.
    let { cursor, done, total } = (memory as unknown as Memory | null) ?? {
      cursor: undefined,
      done: 0,
      total: null,
    };
    const judging = { id, time: lookedAt.toISOString(), existing };
    return {
      step: () =>
        holding(
          { memory: { ...(cursor !== undefined && { cursor }), done, total }, done, total },
          async () => {
            const current = await registry.get();
            const ready = judgingRule(current, rule);
            if (!ready.ok)
              throw new JobEnds(
                `“${rule.name}” cannot run: ${ready.problems[0]?.error.message ?? 'it has mistakes.'}`,
              );
            const store = current.stores.get(system);
            if (!store) throw new JobEnds(`The records of ${system} cannot be listed.`);
            const page = await store.page({ type: recordType, limit: pageSize, cursor });
            if (page.next !== null && page.next === cursor)
              throw new JobEnds(`${system} gives the same page of ${recordType} again and again.`);
            const judged = await judgeAll(current, ready, page.records, judging);
            const { nameField } = ready.compiled.recordType;
            await keepJudged(
              pool,
              id,
              page.records.map(({ ref, record }, at) => {
                const name = readPath(record, nameField);
                const one = judged[at] ?? { standing: 'cannot', because: '', differences: [] };
                return {
                  ...one,
                  recordId: ref.id,
                  name: typeof name === 'string' ? name.slice(0, 200) : null,
                };
              }),
            );
            cursor = page.next ?? undefined;
            done += page.records.length;
            total = page.next === null ? done : (page.total ?? total);
            const kept: Memory = { ...(cursor !== undefined && { cursor }), done, total };
            return { memory: kept as unknown as Json, done, total, ended: page.next === null };
          },
        ),
    };
  },
};
