/** An event that takes longer is no lone one any more, and nobody stands aside for it. */
const loneMs = 1000;

/**
 * Lets runs of many writes stand aside while events of few are dealt with: a change by one person does not wait for the ten thousand records
 * that follow from another. Whoever stands aside says how long at most, so that many lone events cannot hold a large run up for ever.
 */
export class RightOfWay {
  private readonly lone = new Set<{ readonly since: number }>();
  private readonly waiting = new Set<() => void>();

  constructor(private readonly now: () => number = () => performance.now()) {}

  /** Begins to deal with an event that goes first. Returns what ends that; a second call of it does nothing. */
  begin(): () => void {
    const stay = { since: this.now() };
    this.lone.add(stay);
    return () => {
      this.lone.delete(stay);
      if (this.loneFor() > 0) return;
      for (const go of this.waiting) go();
    };
  }

  /** Waits until no lone event is dealt with, and so many milliseconds at most. */
  async standAside(mostMs: number): Promise<void> {
    const pause = Math.min(mostMs, this.loneFor());
    if (pause <= 0) return;
    await new Promise<void>((done) => {
      const go = () => {
        clearTimeout(timer);
        this.waiting.delete(go);
        done();
      };
      const timer = setTimeout(go, pause);
      this.waiting.add(go);
    });
  }

  /** For how many milliseconds the last lone event still counts as one; 0 where there is none. */
  private loneFor(): number {
    let last = -Infinity;
    for (const { since } of this.lone) last = Math.max(last, since);
    return Math.max(0, last + loneMs - this.now());
  }
}
