import { refKey, type RecordRef } from '../model/record';
import type { PlannedWrite, Report, RuleReport } from '../engine/report';

/** What a rule comes to for one of many records, computed by itself. */
export interface ForOne {
  readonly ref: RecordRef;
  readonly report: Report;
}

/** What is written by one run for many records. */
export interface Together {
  readonly rules: readonly RuleReport[];
  /** Each says for which of the records it is. */
  readonly writes: readonly PlannedWrite[];
  /** Records that want runs of their own. */
  readonly apart: readonly RecordRef[];
}

/**
 * Returns what one run can write for many records, each computed by itself. One that does more than edit and remove has a run of its own, with its
 * messages, waits and failures; so has one that creates, since what it did not find another may have created by then; and so have two that write to the
 * same record, of which the second is then computed from what the first made of it.
 */
export function together(all: readonly ForOne[]): Together {
  const plain = all.filter(({ report }) => onlyChanges(report));
  const writers = new Map<string, number>();
  for (const { report } of plain)
    for (const { change } of report.writes) {
      const key = refKey(change.ref);
      writers.set(key, (writers.get(key) ?? 0) + 1);
    }
  const alone = plain.filter(({ report }) =>
    report.writes.every(({ change }) => writers.get(refKey(change.ref)) === 1),
  );
  const taken = new Set(alone);
  return {
    rules: alone.flatMap(({ report }) => report.rules),
    writes: alone
      .flatMap(({ ref, report }) => report.writes.map((write) => ({ ...write, about: ref })))
      .sort((a, b) => a.depth - b.depth),
    apart: all.filter((each) => !taken.has(each)).map(({ ref }) => ref),
  };
}

/** Whether nothing but edits and removals comes of it, and nothing went wrong. */
function onlyChanges({ writes, messages, waiting, problems, rules }: Report): boolean {
  return (
    messages.length === 0 &&
    waiting.length === 0 &&
    problems.length === 0 &&
    rules.every(({ verdict }) => verdict !== 'failed') &&
    writes.every(({ change }) => change.kind !== 'create')
  );
}
