import { refKey, type RecordRef } from '../model/record';
import type { PlannedWrite, Report, RuleReport } from './report';

/** A record in a cascade: how its change was made, and the rules that the change started. */
export interface CascadeRecord<W extends PlannedWrite = PlannedWrite> {
  readonly ref: RecordRef;
  /** What was done to it; absent for the record of the event. */
  readonly write?: W;
  readonly rules: readonly CascadeRule<W>[];
}

/** A rule in a cascade: what came of it, and the records that it wrote. */
export interface CascadeRule<W extends PlannedWrite = PlannedWrite> {
  readonly report: RuleReport;
  readonly records: readonly CascadeRecord<W>[];
}

/**
 * Returns what led to what in a run: one tree, or of a run for many records one for each of those that it wrote for.
 * See `cascadeOf`.
 */
export function cascadesOf<W extends PlannedWrite>(
  report: Pick<Report, 'event' | 'rules'>,
  writes: readonly Planned<W>[],
): readonly CascadeRecord<W>[] {
  const byRecord = new Map<string, { readonly ref: RecordRef; readonly writes: Planned<W>[] }>();
  for (const write of writes) {
    const { about } = write;
    if (!about) return [cascadeOf(report, writes)];
    const known = byRecord.get(refKey(about)) ?? { ref: about, writes: [] };
    known.writes.push(write);
    byRecord.set(refKey(about), known);
  }
  return [...byRecord.values()].map(({ ref, writes: own }) =>
    cascadeOf({ event: { ...report.event, ref }, rules: report.rules }, own),
  );
}

/** A write, with the id under which its plan names its record: of one that is created it is ours. */
type Planned<W extends PlannedWrite> = W & { readonly plannedId?: string };

/**
 * Returns what led to what in a run, as a tree: the record of its event, the rules that it started, the records that each wrote, the rules
 * that those started, and so on. A record that several rules wrote stands below the first.
 *
 * @param report what each rule did.
 * @param writes what was planned; where records were created, with the ids under which the report names them.
 */
export function cascadeOf<W extends PlannedWrite>(
  { event, rules }: Pick<Report, 'event' | 'rules'>,
  writes: readonly Planned<W>[],
): CascadeRecord<W> {
  const started = rules.filter(({ verdict }) => verdict !== 'not this kind' && verdict !== 'not watched');
  const taken = new Set<Planned<W>>();
  const plannedRef = ({ change: { ref }, plannedId = ref.id }: Planned<W>) => ({ ...ref, id: plannedId });
  const rulesOf = (ref: RecordRef, depth: number): readonly CascadeRule<W>[] =>
    started
      .filter((report) => report.depth === depth && refKey(report.ref) === refKey(ref))
      .map((report) => {
        const own = writes.filter(
          (write) =>
            !taken.has(write) &&
            write.depth === depth &&
            write.rules.some(({ id }) => id === report.ruleId) &&
            (write.cause ? refKey(write.cause) === refKey(ref) : depth === 0),
        );
        own.forEach((write) => taken.add(write));
        return {
          report,
          records: own.map((write) => ({
            ref: write.change.ref,
            write,
            rules: rulesOf(plannedRef(write), depth + 1),
          })),
        };
      });
  return { ref: event.ref, rules: rulesOf(event.ref, 0) };
}
