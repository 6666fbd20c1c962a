/** Rejected messages of one system that are kept in a minute; those beyond are answered, and no more than counted. */
const keptInMinute = 30;
/** Rejected messages of one system in a minute after which further ones are told to come later. */
const mostInMinute = 300;
/** Systems, and addresses that are none, of which is counted at once. */
const mostCounted = 1000;
const minuteMs = 60_000;

interface Count {
  readonly since: number;
  rejected: number;
}

/** What becomes of a message that cannot be taken. */
export type Rejection = 'keep' | 'answer' | 'later';

/**
 * Counts what could not be taken, so that a stranger's flood neither fills the list nor works the database. Messages that are signed
 * are not held up by it.
 */
export class Rejections {
  private counts = new Map<string, Count>();
  private forgotAt = 0;

  constructor(private readonly now: () => number = Date.now) {}

  /** Counts one more. */
  note(system: string): Rejection {
    const now = this.now();
    // Whoever tries many addresses is counted as one.
    const known = this.counts.get(system);
    const key = known || this.counts.size < mostCounted ? system : '';
    const count = this.counts.get(key);
    const current = count && now - count.since < minuteMs ? count : { since: now, rejected: 0 };
    this.counts.set(key, current);
    current.rejected++;
    if (now - this.forgotAt >= minuteMs) this.forget(now);
    if (current.rejected > mostInMinute) return 'later';
    return current.rejected > keptInMinute ? 'answer' : 'keep';
  }

  private forget(now: number): void {
    this.forgotAt = now;
    this.counts = new Map([...this.counts].filter(([, { since }]) => now - since < minuteMs));
  }
}

/** Lets so many messages of one system pass in a second, and as many again at once after a quiet time. */
export class MessageRate {
  private readonly left = new Map<string, { readonly at: number; readonly tokens: number }>();

  constructor(
    private readonly perSecond: number,
    private readonly now: () => number = Date.now,
  ) {}

  /** Returns whether a message may pass now. */
  passes(system: string): boolean {
    const now = this.now();
    const before = this.left.get(system) ?? { at: now, tokens: 2 * this.perSecond };
    const grown = before.tokens + ((now - before.at) / 1000) * this.perSecond;
    const tokens = Math.min(2 * this.perSecond, grown);
    const passes = tokens >= 1;
    this.left.set(system, { at: now, tokens: passes ? tokens - 1 : tokens });
    return passes;
  }
}
