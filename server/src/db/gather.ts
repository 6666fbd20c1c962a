import { isDatabaseAway } from './pool';

interface Asked<Item, Result> {
  readonly item: Item;
  readonly done: (result: Result) => void;
  readonly fail: (thrown: unknown) => void;
}

interface GatherOptions {
  /** Items of one turn at most; without it, all that there are. */
  readonly most?: number;
  /** Turns that are under way at the same time; usually one. */
  readonly atOnce?: number;
  /** After a turn of so many items or more, the next one waits a moment, so that it is worth more. */
  readonly flood?: { readonly from: number; readonly pauseMs: number };
  /** Whether what was thrown may be the trouble of one item alone; usually everything but a database that is away. */
  readonly mayBeOnes?: (thrown: unknown) => boolean;
}

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
    private readonly options: GatherOptions = {},
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
    // Those who ask in the same moment come along.
    setImmediate(() => {
      this.beginning = false;
      const turn = this.asked.splice(0, this.options.most ?? this.asked.length);
      if (turn.length === 0) return;
      this.underWay++;
      void this.take(turn).finally(() => this.ended(turn.length));
      if (this.asked.length > 0) this.begin();
    });
  }

  private ended(items: number): void {
    const { flood } = this.options;
    const next = () => {
      this.underWay--;
      if (this.asked.length > 0) this.begin();
    };
    if (flood && items >= flood.from) setTimeout(next, flood.pauseMs);
    else next();
  }

  private async take(turn: readonly Asked<Item, Result>[]): Promise<void> {
    try {
      const results = await this.work(turn.map(({ item }) => item));
      if (results.length !== turn.length)
        throw new Error(`${turn.length} items came to ${results.length} results`);
      turn.forEach(({ done }, at) => done(results[at] as Result));
    } catch (thrown) {
      const mayBeOnes = this.options.mayBeOnes ?? ((one: unknown) => !isDatabaseAway(one));
      if (turn.length > 1 && mayBeOnes(thrown)) for (const one of turn) await this.take([one]);
      else for (const { fail } of turn) fail(thrown);
    }
  }
}
