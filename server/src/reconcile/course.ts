import type { Pool } from '../db/pool';
import { progressOf, type Progress } from './choosing';

/**
 * All records of a job are gone through to count them. Between two counts it rests so many times as long as the last one took, but no less and no more
 * than this, in milliseconds: where one took long because all waited, the end of the job is heard of all the same.
 */
const rests = {
  times: 20,
  /** While runs that it began are under way: when they are done with is asked in between. */
  ownRuns: { least: 2000, most: 60_000 },
  /** Where only other runs are, of which nothing is heard in between. */
  others: { least: 250, most: 3000 },
};

/** Records that were handed over to one run. */
export interface HandedOver {
  readonly run: string;
  readonly records: number;
}

/** How far a job that writes records has come. Between two counts only the runs that it began are asked for. */
export class Course {
  private countedAt = performance.now();
  /** How long it took to count them. */
  private took = 0;
  /** Runs that it began and that were not done with when they were last asked for. */
  private open: readonly HandedOver[] = [];
  /** Records of its runs that were done with since they were counted. */
  private done = 0;
  /** Records in other runs that were under way when they were counted. */
  private others: number;

  private constructor(
    private readonly pool: Pool,
    private readonly job: string,
    /** As it was last counted. */
    private counted: Progress,
  ) {
    this.others = counted.underWay;
  }

  static async of(pool: Pool, job: string): Promise<Course> {
    return new Course(pool, job, await progressOf(pool, job));
  }

  get progress(): Omit<Progress, 'begun' | 'underWay'> & { readonly done: number } {
    const { begun, underWay, total, waits } = this.counted;
    return { done: begun - underWay + this.done, total, waits };
  }

  get ended(): boolean {
    const { begun, total, underWay } = this.counted;
    return begun >= total && underWay === 0;
  }

  /** Records that are under way, as far as is known. */
  get underWay(): number {
    return this.others + recordsOf(this.open);
  }

  /** Takes up runs that were begun. */
  began(runs: readonly HandedOver[]): void {
    this.open = [...this.open, ...runs];
  }

  /**
   * Asks for the runs that were begun; where nothing is under way any more, or some time has gone by, all is counted anew. Returns whether it
   * was counted that some have no run.
   */
  async look(): Promise<boolean> {
    const before = recordsOf(this.open);
    if (this.open.length > 0) this.open = await stillOpen(this.pool, this.open);
    this.done += before - recordsOf(this.open);
    const isBusy = this.open.length > 0 || this.others > 0;
    const { least, most } = this.open.length > 0 ? rests.ownRuns : rests.others;
    const began = performance.now();
    const rested = began - this.countedAt;
    if (isBusy && rested < Math.min(Math.max(rests.times * this.took, least), most)) return false;
    this.counted = await progressOf(this.pool, this.job);
    this.countedAt = performance.now();
    this.took = this.countedAt - began;
    this.done = 0;
    this.others = Math.max(0, this.counted.underWay - recordsOf(this.open));
    return this.counted.begun < this.counted.total;
  }
}

function recordsOf(runs: readonly HandedOver[]): number {
  return runs.reduce((sum, { records }) => sum + records, 0);
}

/** Returns those of the runs that are not done with. */
async function stillOpen(pool: Pool, runs: readonly HandedOver[]): Promise<readonly HandedOver[]> {
  const { rows } = await pool.query<{ id: string }>(
    `SELECT id::text FROM inbox WHERE id = ANY ($1) AND state = 'waiting'`,
    [runs.map(({ run }) => run)],
  );
  const waiting = new Set(rows.map(({ id }) => id));
  return runs.filter(({ run }) => waiting.has(run));
}
