import type { Surroundings } from '../engine/surroundings';
import type { ChangeEvent } from '../model/event';
import type { Json } from '../model/json';
import type { StoredRecord } from '../model/record';
import { withOwnRecord } from '../model/sample';
import { differencesBetween, type OutcomeDifference } from './compareOutcome';
import { replaySample, type Ensemble } from './replay';

/** How the second set of rules differs from the first at one field of one record type. */
export type DifferenceKind = 'another value' | 'only then' | 'no longer';

/** The same kind of difference, over many events. */
export interface DifferenceGroup {
  readonly kind: DifferenceKind;
  /** `system/type`, or what else differs: a message, a problem. */
  readonly about: string;
  /** The field; blank where a whole record is created or removed. */
  readonly path: string;
  readonly count: number;
  /** The first of them. */
  readonly examples: readonly HistoryExample[];
}

export interface HistoryExample {
  /** The run whose event it was. */
  readonly run: string;
  readonly key: string;
  readonly now?: Json;
  readonly then?: Json;
}

const keptExamples = 5;
/** Groups beyond these are counted, and not told apart. */
const mostGroups = 500;

/** Events of the past through two sets of rules: only what differs is kept, grouped and counted, so that memory stays flat. */
export class HistoryComparison {
  private readonly groups = new Map<string, DifferenceGroup>();
  private events = 0;
  private differing = 0;

  constructor(
    private readonly now: Ensemble,
    private readonly then: Ensemble,
    private readonly surroundings: Pick<Surroundings, 'catalog'>,
  ) {}

  /** Takes one event with the records that it met. */
  async take(run: string, event: ChangeEvent, records: readonly StoredRecord[]): Promise<void> {
    const sample = { id: run, name: run, note: '', event, records: withOwnRecord(event, records) };
    const one = await replaySample(sample, this.now, this.surroundings);
    const other = await replaySample(sample, this.then, this.surroundings);
    const differences = differencesBetween(one.outcome, other.outcome, this.surroundings.catalog);
    this.events++;
    if (differences.length > 0) this.differing++;
    for (const difference of differences) this.count(run, difference);
  }

  /** What was found so far, the most frequent first. */
  summary(): {
    readonly events: number;
    readonly differing: number;
    readonly groups: readonly DifferenceGroup[];
  } {
    const groups = [...this.groups.values()].sort((a, b) => b.count - a.count);
    return { events: this.events, differing: this.differing, groups };
  }

  private count(run: string, { key, path, one, other }: OutcomeDifference): void {
    const kind: DifferenceKind =
      one === undefined ? 'only then' : other === undefined ? 'no longer' : 'another value';
    const about = aboutOf(key);
    const at = JSON.stringify([kind, about, path]);
    const known = this.groups.get(at);
    if (!known && this.groups.size >= mostGroups) return;
    const example = {
      run,
      key,
      ...(one !== undefined && { now: one }),
      ...(other !== undefined && { then: other }),
    };
    const examples = known?.examples ?? [];
    this.groups.set(at, {
      kind,
      about,
      path,
      count: (known?.count ?? 0) + 1,
      examples: examples.length < keptExamples ? [...examples, example] : examples,
    });
  }
}

/** `system/type/id` without the id; messages and problems as they are named. */
function aboutOf(key: string): string {
  if (key.startsWith('message ')) return key.split(' ').slice(0, 3).join(' ');
  return key.split('/').slice(0, 2).join('/');
}
