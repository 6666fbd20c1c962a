import { readPath, type CompiledRule, type Json, type Judged, type StoredRecord } from '@vast-knot/core';
import { ahead, pagesFrom, type RecordsPage } from '../connector/recordStore';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { noteDrift } from './noteDrift';
import { holding } from './holding';
import { judgeAll, judgingRule } from './judging';
import { keepJudged, readReconcile, type JudgedRecord } from './repository';

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
    const standsAt = () => {
      const at: Memory = { ...(cursor !== undefined && { cursor }), done, total };
      return { memory: at as unknown as Json, done, total };
    };
    /** The pages from there on; begun anew after a failure. */
    let pages: AsyncGenerator<RecordsPage> | undefined;
    /** The records of the page before: where some were added or removed meanwhile, the next one may have them again. */
    let seen: ReadonlySet<string> = new Set();
    const lookOn = async () => {
      const current = await registry.get();
      const ready = judgingRule(current, rule);
      if (!ready.ok) throw new JobEnds(`“${rule.name}” cannot run: ${ready.because}`);
      const store = current.stores.get(system);
      if (!store) throw new JobEnds(`The records of ${system} cannot be listed.`);
      pages ??= ahead(pagesFrom(store, { type: recordType, limit: pageSize, cursor }));
      const { value: page } = (await pages.next()) as IteratorResult<RecordsPage, undefined>;
      if (page) {
        const fresh = page.records.filter(({ ref }) => !seen.has(ref.id));
        const judged = await judgeAll(current, ready, fresh, judging);
        await keepJudged(pool, id, {
          records: judged.map((one, at) => named(one, fresh[at], ready.compiled)),
          before: done,
        });
        seen = new Set(page.records.map(({ ref }) => ref.id));
        done += page.records.length;
        total = page.total ?? total;
        cursor = page.next ?? undefined;
      }
      const ended = cursor === undefined;
      if (ended) {
        total = done;
        await noteDrift(pool, id);
      }
      return { ...standsAt(), ended };
    };
    return {
      step: () =>
        holding(standsAt(), () =>
          lookOn().catch((thrown: unknown) => {
            pages = undefined;
            throw thrown;
          }),
        ),
    };
  },
};

/** Returns how a record stands, with its id and what people call it. */
function named(judged: Judged, stored: StoredRecord | undefined, { recordType }: CompiledRule): JudgedRecord {
  const name = stored && readPath(stored.record, recordType.nameField);
  return {
    ...judged,
    recordId: stored?.ref.id ?? '',
    name: typeof name === 'string' ? name.slice(0, 200) : null,
  };
}
