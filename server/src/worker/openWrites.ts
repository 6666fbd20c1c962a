import { creates, type WaitingWrite } from '../runs/plan';

/** Writes that are read with one statement. */
const pageSize = 500;

/** Reads the open writes of a run that come after one, at most so many. */
export type ReadOpen = (after: WaitingWrite | undefined, most: number) => Promise<readonly WaitingWrite[]>;

/** Writes of a plan that may be sent in any order: of one depth, and either creating or not. */
export interface Stage {
  readonly depth: number;
  readonly creating: boolean;
}

/**
 * The writes of a run that are not settled, in the order of its plan. Those of a plan that was just stored are at hand; others
 * are read as they are wanted. Each is given once, whatever becomes of it meanwhile. Several lanes may take from it.
 */
export class OpenWrites {
  private page: readonly WaitingWrite[];
  private at = 0;
  private ended: boolean;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly read: ReadOpen,
    atHand: readonly WaitingWrite[] | undefined,
  ) {
    this.page = atHand ?? [];
    this.ended = atHand !== undefined;
  }

  /** Returns what comes next; undefined at the end. */
  async stage(): Promise<Stage | undefined> {
    const next = await this.inTurn(() => this.next());
    return next && stageOf(next);
  }

  /** Returns the next writes of a stage, at most so many; none when it is done. */
  take(stage: Stage, most: number): Promise<readonly WaitingWrite[]> {
    return this.inTurn(async () => {
      const taken: WaitingWrite[] = [];
      for (let next = await this.next(); next && taken.length < most; next = await this.next()) {
        if (!isIn(stage, next)) break;
        taken.push(next);
        this.at++;
      }
      return taken;
    });
  }

  private async next(): Promise<WaitingWrite | undefined> {
    if (this.at === this.page.length && !this.ended) {
      const last = this.page.at(-1);
      this.page = await this.read(last, pageSize);
      this.at = 0;
      this.ended = this.page.length < pageSize;
    }
    return this.page[this.at];
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }
}

function stageOf({ planned }: WaitingWrite): Stage {
  return { depth: planned.depth, creating: creates(planned) };
}

function isIn(stage: Stage, write: WaitingWrite): boolean {
  const { depth, creating } = stageOf(write);
  return depth === stage.depth && creating === stage.creating;
}
