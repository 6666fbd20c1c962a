import { readPath, type Json, type Judged, type StoredRecord } from '@vast-knot/core';
import { ahead, pagesFrom, type RecordsPage } from '../connector/recordStore';
import { storable } from '../db/storable';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { noteDrift } from './noteDrift';
import { holding } from './holding';
import { judgeAll, judgingRule } from './judging';
import { forgetBeyond, keepJudged, readReconcile, type KeptPage } from './repository';

/** Records that are read with one request. */
const pageSize = 500;
/** Records that are kept together, at most. */
const keptTogether = 5000;
/** How long a step takes: then it is kept how far the look came, and heard whether to go on. */
const stepMs = 400;

/** Where a look stands. */
interface Memory {
  /** The cursor of the next page; absent for the first. */
  readonly cursor?: string;
  readonly done: number;
  readonly total: number | null;
  /** The greatest number of a record that was kept; absent in a look that an earlier version began. */
  readonly seq?: string;
}

/** The same, with the records of the page before: where some were added or removed meanwhile, the next one may have them again. */
interface Place extends Memory {
  readonly seen: ReadonlySet<string>;
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
    const before = (memory as unknown as Memory | null) ?? { done: 0, total: null, seq: '0' };
    let place: Place = { ...before, seen: new Set() };
    const judging = { id, time: lookedAt.toISOString(), existing };
    const standsAt = () => {
      const { seen: _, ...at } = place;
      return { memory: at as unknown as Json, done: place.done, total: place.total };
    };
    /** The pages from there on; begun anew after a failure. */
    let pages: AsyncGenerator<RecordsPage> | undefined;
    /** More may have been kept than what the place tells: by a process that was killed, or by a step that failed. */
    let unsure = true;

    /** Judges the next pages. Where one cannot be had, what was judged before it counts all the same. */
    const judgeOn = async (
      from: Place,
      until: number,
      judgePage: (records: readonly StoredRecord[]) => Promise<KeptPage>,
    ) => {
      const kept: KeptPage = { right: { ids: [], names: [] }, others: [] };
      let at = from;
      try {
        do {
          const { value: page } = (await pages?.next()) as IteratorResult<RecordsPage, undefined>;
          if (!page) break;
          const { right, others } = await judgePage(withoutSeen(page.records, at.seen));
          kept.right.ids.push(...right.ids);
          kept.right.names.push(...right.names);
          kept.others.push(...others);
          at = {
            seen: new Set(page.records.slice(-overlap).map(({ ref }) => ref.id)),
            done: at.done + page.records.length,
            total: page.total ?? at.total,
            ...(page.next !== null && page.next !== undefined && { cursor: page.next }),
          };
        } while (at.cursor !== undefined && at.done - from.done < keptTogether && performance.now() < until);
      } catch (thrown) {
        return { kept, at, failed: { thrown } };
      }
      return { kept, at };
    };

    const lookOn = async () => {
      const current = await registry.get();
      const ready = judgingRule(current, rule);
      if (!ready.ok) throw new JobEnds(`“${rule.name}” cannot run: ${ready.because}`);
      const store = current.stores.get(system);
      if (!store) throw new JobEnds(`The records of ${system} cannot be listed.`);
      if (unsure) await forgetBeyond(pool, id, place);
      unsure = true;
      pages ??= ahead(pagesFrom(store, { type: recordType, limit: pageSize, cursor: place.cursor }));
      const judgePage = async (records: readonly StoredRecord[]) =>
        pageOf(
          records,
          await judgeAll(current, ready, records, judging),
          ready.compiled.recordType.nameField,
        );
      const until = performance.now() + stepMs;
      let { seq } = place;
      let at = place;
      let failed: { readonly thrown: unknown } | undefined;
      // The database keeps what was judged while the next pages are.
      let keeping: Promise<void> = Promise.resolve();
      do {
        const judged = await judgeOn(at, until, judgePage);
        await keeping;
        keeping = keepJudged(pool, id, { ...judged.kept, before: at.done }).then((last) => {
          seq = last ?? seq;
        });
        // Whoever waits for it hears of its failure.
        keeping.catch(() => undefined);
        ({ at, failed } = judged);
      } while (!failed && at.cursor !== undefined && performance.now() < until);
      await keeping;
      place = { ...at, ...(seq !== undefined && { seq }) };
      unsure = false;
      if (failed) throw failed.thrown;
      const ended = place.cursor === undefined;
      if (ended) {
        place = { ...place, total: place.done };
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

/** Returns how the records of a page stand, with their ids and what people call them. */
function pageOf(
  records: readonly StoredRecord[],
  judged: readonly (Judged | undefined)[],
  nameField: string,
): KeptPage {
  const kept: KeptPage = { right: { ids: [], names: [] }, others: [] };
  records.forEach(({ ref, record }, at) => {
    const stands = judged[at];
    const held = record[nameField] ?? readPath(record, nameField);
    const name = typeof held === 'string' ? storable(held.slice(0, 200)) : '';
    if (stands?.standing === 'right') {
      kept.right.ids.push(ref.id);
      kept.right.names.push(name);
    } else if (stands) kept.others.push({ ...stands, recordId: ref.id, name: name === '' ? null : name });
  });
  return kept;
}
