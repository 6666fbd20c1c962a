/** Between server and web: long work. Types only. */
import type { DifferenceGroup } from '../replay/history';

export type JobState = 'waiting' | 'at work' | 'paused' | 'done' | 'cancelled' | 'failed';

/** Long work: how far it has come, and what can be done with it. */
export interface JobView {
  readonly id: string;
  readonly kind: string;
  readonly state: JobState;
  readonly done: number;
  /** How much there is to do; null while that is not known. */
  readonly total: number | null;
  readonly askedBy: string;
  readonly problem: string | null;
  /** What it waits for just now, as a sentence; null while it goes on. */
  readonly waits: string | null;
  readonly createdAt: string;
  readonly finishedAt: string | null;
}

/** Events of the past through the rules as published and as edited, while that goes on and once it is done. */
export interface HistoryView {
  readonly job: JobView;
  readonly events: number;
  readonly differing: number;
  readonly groups: readonly DifferenceGroup[];
  /** Drafts that could not take part. */
  readonly mistakes: readonly string[];
}
