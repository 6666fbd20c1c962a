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

interface HistoryExample {
  /** The run whose event it was. */
  readonly run: string;
  readonly key: string;
  readonly now?: Json;
  readonly then?: Json;
}

const keptExamples = 5;
/** Groups beyond these are counted, and not told apart. */
const mostGroups = 500;

/** What a comparison has found so far. */
export interface HistoryMemory {
  readonly events: number;
  /** Events that come out otherwise. */
  readonly differing: number;
  readonly groups: readonly DifferenceGroup[];
}

function keyOf({ kind, about, path }: Pick<DifferenceGroup, 'kind' | 'about' | 'path'>): string {
  return JSON.stringify([kind, about, path]);
}

/** Events of the past through two sets of rules: only what differs is kept, grouped and counted, so that memory stays flat. */
export class HistoryComparison {
  private readonly groups = new Map<string, DifferenceGroup>();
  private events: number;
  private differing: number;

  /** `memory` is what an earlier comparison of the same rules kept: it is gone on with from there. */
  constructor(
    private readonly now: Ensemble,
    private readonly then: Ensemble,
    private readonly surroundings: Pick<Surroundings, 'catalog'>,
    memory?: HistoryMemory,
  ) {
    this.events = memory?.events ?? 0;
    this.differing = memory?.differing ?? 0;
    for (const group of memory?.groups ?? []) this.groups.set(keyOf(group), group);
  }

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

  /** Returns what was found so far, the most frequent first. */
  summary(): HistoryMemory {
    return HistoryComparison.summaryOf(this.memory());
  }

  /** Returns what has to be kept to go on later: plain JSON. */
  memory(): HistoryMemory {
    return { events: this.events, differing: this.differing, groups: [...this.groups.values()] };
  }

  /** Returns what a kept comparison has found, the most frequent first. */
  static summaryOf({ events, differing, groups }: HistoryMemory): HistoryMemory {
    return { events, differing, groups: [...groups].sort((a, b) => b.count - a.count) };
  }

  private count(run: string, { key, path, one, other }: OutcomeDifference): void {
    const kind: DifferenceKind =
      one === undefined ? 'only then' : other === undefined ? 'no longer' : 'another value';
    const about = aboutOf(key);
    const at = keyOf({ kind, about, path });
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
