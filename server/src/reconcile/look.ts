import { readPath, type Json, type Judged, type StoredRecord } from '@vast-knot/core';
import { ahead, pagesFrom, type RecordsPage } from '../connector/recordStore';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { noteDrift } from './noteDrift';
import { holding } from './holding';
import { judgeAll, judgingRule } from './judging';
import { keepJudged, readReconcile, type KeptPage } from './repository';

/** Records that are read with one request. */
const pageSize = 500;
/** Records that are looked at in one step at most, and for how long: then it is kept how far it came, and heard whether to go on. */
const mostInStep = 5000;
const stepMs = 150;

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
    /** Another process may have kept what comes next, and was killed before it said so. */
    let again = true;
    const lookOn = async () => {
      const current = await registry.get();
      const ready = judgingRule(current, rule);
      if (!ready.ok) throw new JobEnds(`“${rule.name}” cannot run: ${ready.because}`);
      const store = current.stores.get(system);
      if (!store) throw new JobEnds(`The records of ${system} cannot be listed.`);
      pages ??= ahead(pagesFrom(store, { type: recordType, limit: pageSize, cursor }));
      const kept: KeptPage = { right: { ids: [], names: [] }, others: [] };
      const at = { cursor, done, total, seen };
      const { nameField } = ready.compiled.recordType;
      const until = performance.now() + stepMs;
      let failed: { readonly thrown: unknown } | undefined;
      // Several pages are kept with one commit, unless what they would write has to be computed first.
      do {
        try {
          const { value: page } = (await pages.next()) as IteratorResult<RecordsPage, undefined>;
          if (!page) break;
          const fresh = withoutSeen(page.records, at.seen);
          const judged = await judgeAll(current, ready, fresh, judging);
          fresh.forEach((stored, of) => take(kept, stored, judged[of], nameField));
          at.seen = new Set(page.records.slice(-overlap).map(({ ref }) => ref.id));
          at.done += page.records.length;
          at.total = page.total ?? at.total;
          at.cursor = page.next ?? undefined;
        } catch (thrown) {
          // What was looked at before it is kept all the same.
          failed = { thrown };
        }
      } while (
        !failed &&
        at.cursor !== undefined &&
        at.done - done < mostInStep &&
        performance.now() < until
      );
      await keepJudged(pool, id, { ...kept, before: done, again });
      again = false;
      ({ cursor, done, total, seen } = at);
      if (failed) throw failed.thrown;
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

/** Of a page, the first records may be the last ones of the page before: where some were removed meanwhile. */
const overlap = 100;

function withoutSeen(records: readonly StoredRecord[], seen: ReadonlySet<string>): readonly StoredRecord[] {
  const again = records.slice(0, overlap).some(({ ref }) => seen.has(ref.id));
  return again ? records.filter(({ ref }) => !seen.has(ref.id)) : records;
}

/** Puts how a record stands to the others, with its id and what people call it. */
function take(
  { right, others }: KeptPage,
  { ref, record }: StoredRecord,
  judged: Judged | undefined,
  nameField: string,
): void {
  const held = record[nameField] ?? readPath(record, nameField);
  const name = typeof held === 'string' ? held.slice(0, 200) : '';
  if (judged?.standing === 'right') {
    right.ids.push(ref.id);
    right.names.push(name);
  } else if (judged) others.push({ ...judged, recordId: ref.id, name: name === '' ? null : name });
}
