import { isDatabaseAway } from './pool';

interface Asked<Item, Result> {
  readonly item: Item;
  readonly done: (result: Result) => void;
  readonly fail: (thrown: unknown) => void;
}

interface GatherOptions<Result> {
  /** Items of one turn at most; without it, all that there are. */
  readonly most?: number;
  /** Turns that are under way at the same time; usually one. */
  readonly atOnce?: number;
  /** Returns for how many milliseconds the next turn waits after one with these results; without it, none waits. */
  readonly pauseAfter?: (results: readonly Result[]) => number;
  /** Whether what was thrown may be the trouble of one item alone; usually everything but a database that is away. */
  readonly mayBeOnes?: (thrown: unknown) => boolean;
}

/** For so many rounds of the event loop a turn is held up at most by those who come along. */
const longestGathering = 20;

/**
 * Does work for many callers with one turn. Whoever asks while a turn is under way shares the next one with all others that ask
 * meanwhile; whoever asks alone is served at once. So a thousand callers cost a few turns, and one caller waits for nobody.
 * When a turn fails, its items are tried one by one, so that the trouble of one stays its own.
 */
export class Gather<Item, Result> {
  private asked: Asked<Item, Result>[] = [];
  private underWay = 0;
  private beginning = false;

  /** `work` gives one result for each item, in their order. */
  constructor(
    private readonly work: (items: readonly Item[]) => Promise<readonly Result[]>,
    private readonly options: GatherOptions<Result> = {},
  ) {}

  /** Returns what came of an item. Throws what its turn threw. */
  do(item: Item): Promise<Result> {
    return new Promise((done, fail) => {
      this.asked.push({ item, done, fail });
      this.begin();
    });
  }

  private begin(): void {
    if (this.beginning || this.underWay >= (this.options.atOnce ?? 1)) return;
    this.beginning = true;
    this.gatherMore(this.asked.length, 0);
  }

  /** Begins the turn once nobody has come along for a moment. */
  private gatherMore(known: number, waited: number): void {
    setImmediate(() => {
      if (this.asked.length > known && waited < longestGathering)
        return this.gatherMore(this.asked.length, waited + 1);
      this.beginning = false;
      const turn = this.asked.splice(0, this.options.most ?? this.asked.length);
      if (turn.length === 0) return;
      this.underWay++;
      void this.take(turn).then((results) => this.ended(results));
      if (this.asked.length > 0) this.begin();
    });
  }

  private ended(results: readonly Result[]): void {
    const pauseMs = this.options.pauseAfter?.(results) ?? 0;
    const next = () => {
      this.underWay--;
      if (this.asked.length > 0) this.begin();
    };
    if (pauseMs > 0) setTimeout(next, pauseMs);
    else next();
  }

  /** Gives each what it asked for. Returns the results of a turn that was not taken apart. */
  private async take(turn: readonly Asked<Item, Result>[]): Promise<readonly Result[]> {
    try {
      const results = await this.work(turn.map(({ item }) => item));
      if (results.length !== turn.length)
        throw new Error(`${turn.length} items came to ${results.length} results`);
      turn.forEach(({ done }, at) => done(results[at] as Result));
      return results;
    } catch (thrown) {
      const mayBeOnes = this.options.mayBeOnes ?? ((one: unknown) => !isDatabaseAway(one));
      if (turn.length > 1 && mayBeOnes(thrown)) for (const one of turn) await this.take([one]);
      else for (const { fail } of turn) fail(thrown);
      return [];
    }
  }
}
