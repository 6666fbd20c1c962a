import { WorkspaceError, type Problem, type SystemStanding } from '@vast-knot/core';

/** How much may be asked of a system. */
export interface GateLimits {
  /** Requests that are on their way at once. */
  readonly atOnce: number;
  /** Requests in a second; without it, as many as there are. */
  readonly perSecond?: number;
  /** Milliseconds after which a request without an answer is given up. */
  readonly patienceMs: number;
  /** Somebody paused the system: nothing is asked until it is to go on. */
  readonly paused?: boolean;
}

export const usualLimits: GateLimits = { atOnce: 8, patienceMs: 20_000 };

/** What came of a request, as far as the gate needs it. */
export interface Passage {
  readonly status: number;
  readonly headers: Readonly<Record<string, string | string[] | undefined>>;
}

/** How a system stands, and what follows from it. */
export interface GateState {
  readonly standing: SystemStanding;
  readonly since: number;
  /** What went wrong; blank while it answers. */
  readonly because: string;
  /** When it is asked again; while it is asked as usual, undefined. */
  readonly nextTry: number | undefined;
  /** When it answered last. */
  readonly answeredAt: number | undefined;
  /** How long answers take lately. */
  readonly milliseconds: number | undefined;
}

interface GateParts {
  readonly system: string;
  /** How people call it; without one, its key. */
  readonly name?: string;
  readonly limits: GateLimits;
  readonly now?: () => number;
  /** Hears of every change of standing. */
  readonly changed?: (state: GateState) => void;
}

/** Failures one after the other after which a system counts as away. */
const failuresToAway = 3;
/** A system is asked again after so long, and after twice as long each time that it still fails. */
const firstPauseMs = 1000;
const longestPauseMs = 30_000;
/** From then on a request without an answer is a sign that the system hangs. */
const hangingMs = 5000;
/** Answers that take longer on average are slow. */
const slowMs = 2000;
/** Work that would have to wait longer for a place, or for the budget, is put off. */
const longestWaitMs = 30_000;

interface Waiting {
  readonly go: () => void;
  readonly refuse: (thrown: Error) => void;
}

/**
 * What stands between us and one system: its share of places, its budget of requests, and a breaker. A system that fails again and again,
 * or hangs, is left alone for a while: whatever wants it is refused at once with the time of the next try, so that it waits in order
 * and takes nobody's place. Then one request tries; once it is answered, all go on.
 */
export class Gate {
  readonly system: string;
  private readonly name: string;
  private limits: GateLimits;
  private readonly now: () => number;
  private readonly changed: (state: GateState) => void;
  private active = 0;
  private readonly waiting: Waiting[] = [];
  private failures = 0;
  private opened = 0;
  /** Until then nothing is asked. */
  private closedUntil: number | undefined;
  private probing = false;
  private readonly ending = new AbortController();
  /** When each request that is on its way began. */
  private readonly underWay = new Set<{ readonly since: number }>();
  private tokens: { readonly at: number; readonly left: number } | undefined;
  private current: GateState;

  constructor({ system, name = system, limits, now = Date.now, changed = () => undefined }: GateParts) {
    this.system = system;
    this.name = name;
    this.limits = limits;
    this.now = now;
    this.changed = changed;
    this.current = {
      standing: 'answers',
      since: now(),
      because: '',
      nextTry: undefined,
      answeredAt: undefined,
      milliseconds: undefined,
    };
  }

  get state(): GateState {
    return this.current;
  }

  /** Until when the system is left alone; undefined while it is asked. */
  get waits(): Problem['waits'] {
    return this.closedUntil === undefined
      ? undefined
      : this.waitsUntil(Math.max(this.closedUntil, this.now() + 250));
  }

  private waitsUntil(until: number): NonNullable<Problem['waits']> {
    return { system: this.system, until, ...(this.current.standing === 'away' && { away: true }) };
  }

  /** Takes other limits, where the connection was changed. */
  limit(limits: GateLimits): void {
    this.limits = limits;
    if (limits.paused) this.refuseWaiting();
  }

  /**
   * Sends a request when there is a place for it, and notes what comes of it. Throws a WorkspaceError that says until when to wait where
   * the system is away or its budget is used up; whatever `send` throws counts as no answer, and goes on.
   */
  async through<T extends Passage>(send: (signal: AbortSignal) => Promise<T>): Promise<T> {
    await this.enter();
    const began = { since: this.now() };
    this.underWay.add(began);
    const watch = setTimeout(() => this.lookForHanging(), hangingMs);
    try {
      const patience = AbortSignal.timeout(this.limits.patienceMs);
      const answer = await send(AbortSignal.any([patience, this.ending.signal]));
      this.answered(answer, this.now() - began.since);
      return answer;
    } catch (thrown) {
      if (this.ending.signal.aborted)
        throw this.refusal(firstPauseMs, 'was left because this process ends.', true);
      this.failed(thrown instanceof Error ? thrown.message || thrown.name : String(thrown));
      throw thrown;
    } finally {
      clearTimeout(watch);
      this.underWay.delete(began);
      this.active--;
      this.probing = false;
      this.waiting.shift()?.go();
    }
  }

  /** Ends what is on its way: whoever asked is told to try again later. */
  end(): void {
    this.ending.abort();
    this.refuseWaiting();
  }

  /** Lets the next request to a system that is away try it at once, instead of at the time of the next try. */
  tryNow(): void {
    if (this.closedUntil !== undefined && !this.limits.paused) this.closedUntil = this.now();
  }

  /** Takes over what another process found out. */
  hear(standing: SystemStanding, until: number | undefined, because: string): void {
    if (standing === 'answers' && this.closedUntil !== undefined) this.open();
    else if (
      standing === 'away' &&
      until !== undefined &&
      until > Math.max(this.closedUntil ?? 0, this.now())
    ) {
      // Also of later tries that failed, so that nothing older is told of it here.
      this.closedUntil = until;
      this.set({ standing, because, nextTry: until }, false);
      this.refuseWaiting();
    }
  }

  private async enter(): Promise<void> {
    const began = this.now();
    for (;;) {
      if (this.ending.signal.aborted) throw this.refusal(firstPauseMs, 'was left because this process ends.');
      if (this.limits.paused) throw this.refusal(longestPauseMs, 'is paused.');
      const left = this.leftAlone();
      if (left > 0) {
        await this.pause(left);
        continue;
      }
      if (this.active < this.limits.atOnce) {
        const pause = this.pauseForBudget();
        if (pause === 0) {
          this.active++;
          return;
        }
        if (pause > longestWaitMs) throw this.refusal(pause, 'is asked no more often than it allows.');
        await this.pause(pause);
        continue;
      }
      if (this.now() - began >= longestWaitMs)
        throw this.refusal(500, 'has as many requests on their way as it takes.');
      await this.turn();
    }
  }

  /** Waits for a place, or for as long as one waits for it. Throws when the system is left alone meanwhile. */
  private turn(): Promise<void> {
    return new Promise<void>((done, fail) => {
      const waiting: Waiting = {
        go: () => {
          clearTimeout(timer);
          done();
        },
        refuse: (thrown) => {
          clearTimeout(timer);
          fail(thrown);
        },
      };
      const timer = setTimeout(() => {
        this.waiting.splice(this.waiting.indexOf(waiting), 1);
        done();
      }, longestWaitMs);
      this.waiting.push(waiting);
    });
  }

  /**
   * Returns for how many milliseconds a system that wants to be asked less often is left alone; 0 where it is asked. Throws where it is
   * away, or is left alone for longer than one waits.
   */
  private leftAlone(): number {
    const until = this.closedUntil;
    if (until === undefined) return 0;
    const left = until - this.now();
    if (this.current.standing === 'limited' && left <= longestWaitMs) {
      if (left <= 0) this.closedUntil = undefined;
      return Math.max(0, left);
    }
    if (left > 0 || this.probing) throw this.refusal(Math.max(250, left), this.current.because);
    // One request tries; the others wait for what comes of it.
    this.probing = true;
    return 0;
  }

  /** Waits; no longer than until this process ends. */
  private pause(ms: number): Promise<void> {
    const { signal } = this.ending;
    return new Promise((done) => {
      const end = () => {
        clearTimeout(timer);
        signal.removeEventListener('abort', end);
        done();
      };
      const timer = setTimeout(end, ms);
      signal.addEventListener('abort', end);
    });
  }

  private refusal(waitMs: number, because: string, sent = false): WorkspaceError {
    return new WorkspaceError({
      code: 'unavailable',
      message: `${this.name} ${because}`,
      retry: true,
      waits: { ...this.waitsUntil(this.now() + waitMs), ...(sent && { sent }) },
    });
  }

  /** Returns how many milliseconds a request has to wait for the budget; takes its share where it has not. */
  private pauseForBudget(): number {
    const { perSecond } = this.limits;
    if (perSecond === undefined) return 0;
    const now = this.now();
    const before = this.tokens ?? { at: now, left: perSecond };
    const left = Math.min(perSecond, before.left + ((now - before.at) / 1000) * perSecond);
    const enough = left >= 1;
    this.tokens = { at: now, left: enough ? left - 1 : left };
    return enough ? 0 : Math.ceil(((1 - left) / perSecond) * 1000);
  }

  private answered({ status, headers }: Passage, took: number): void {
    const { milliseconds = took } = this.current;
    const average = Math.round(milliseconds * 0.8 + took * 0.2);
    const later = pauseAsked(headers, this.now());
    if (status === 429 || (status === 503 && later !== undefined)) {
      this.close('limited', later ?? firstPauseMs, `asks to be asked less often (it answered ${status}).`);
      return;
    }
    if (status >= 500) {
      this.failed(`it answered ${status}`);
      return;
    }
    this.failures = 0;
    const seen = { answeredAt: this.now(), milliseconds: average };
    if (later !== undefined && later > 0) {
      this.set(seen, false);
      this.close('limited', later, 'has a budget of requests, and it is used up.');
    } else if (this.closedUntil !== undefined) {
      this.open(seen);
    } else if (average > slowMs) {
      this.set({
        ...seen,
        standing: 'slow',
        because: `takes ${(average / 1000).toFixed(1)} s to answer.`,
        nextTry: undefined,
      });
    } else {
      this.set({ ...seen, standing: 'answers', because: '', nextTry: undefined });
    }
  }

  private failed(why: string): void {
    this.failures++;
    if (this.closedUntil !== undefined || this.failures >= failuresToAway)
      this.close(
        'away',
        Math.min(longestPauseMs, firstPauseMs * 2 ** this.opened++),
        `does not answer (${why}).`,
      );
  }

  /** Two requests that wait so long, and no answer to any other, are enough: the rest need not find out for themselves. */
  private lookForHanging(): void {
    const now = this.now();
    const hanging = [...this.underWay].filter(({ since }) => now - since >= hangingMs - 50).length;
    const quiet = now - (this.current.answeredAt ?? 0) >= hangingMs - 50;
    if (hanging >= 2 && quiet && this.closedUntil === undefined)
      this.close(
        'away',
        Math.min(longestPauseMs, firstPauseMs * 2 ** this.opened++),
        'hangs: it takes requests and does not answer.',
      );
    else if (hanging > 0 && this.current.standing === 'answers')
      this.set({
        standing: 'slow',
        because: `has not answered for ${hangingMs / 1000} s.`,
        nextTry: undefined,
      });
  }

  private close(standing: 'away' | 'limited', pauseMs: number, because: string): void {
    this.closedUntil = this.now() + pauseMs;
    this.set({ standing, because, nextTry: this.closedUntil });
    if (standing === 'away' || pauseMs > longestWaitMs) this.refuseWaiting();
  }

  private open(seen: Partial<GateState> = {}): void {
    this.closedUntil = undefined;
    this.opened = 0;
    this.failures = 0;
    this.set({ ...seen, standing: 'answers', because: '', nextTry: undefined });
  }

  private refuseWaiting(): void {
    const { closedUntil = this.now(), because } = { ...this.current, closedUntil: this.closedUntil };
    for (const { refuse } of this.waiting.splice(0))
      refuse(this.refusal(Math.max(250, closedUntil - this.now()), because));
  }

  private set(next: Partial<GateState>, told = true): void {
    const before = this.current;
    const since =
      next.standing !== undefined && next.standing !== before.standing ? this.now() : before.since;
    this.current = { ...before, ...next, since };
    const news = before.standing !== this.current.standing || before.nextTry !== this.current.nextTry;
    if (told && news) this.changed(this.current);
  }
}

/**
 * Returns for how many milliseconds a system asks to be left alone: `Retry-After` (RFC 9110, 10.2.3), in seconds or as a date; a
 * `RateLimit` field whose budget is used up (draft-ietf-httpapi-ratelimit-headers: `"name";r=0;t=30`, and `RateLimit-Remaining` with
 * `RateLimit-Reset` of its earlier versions; from memory). Undefined where it asks for nothing.
 */
export function pauseAsked(headers: Passage['headers'], now: number): number | undefined {
  const text = (name: string) => {
    const value = headers[name];
    return (Array.isArray(value) ? value[0] : value)?.trim();
  };
  const after = text('retry-after');
  if (after !== undefined) {
    if (/^\d{1,9}$/.test(after)) return Number(after) * 1000;
    const at = Date.parse(after);
    if (!Number.isNaN(at)) return Math.max(0, at - now);
  }
  const budget = text('ratelimit');
  const [left, reset] = budget
    ? [
        /(?:^|[;,\s])r(?:emaining)?=(\d+)/.exec(budget)?.[1],
        /(?:^|[;,\s])(?:t|reset)=(\d+)/.exec(budget)?.[1],
      ]
    : [text('ratelimit-remaining'), text('ratelimit-reset')];
  return left !== undefined && /^0+$/.test(left) && reset !== undefined && /^\d{1,9}$/.test(reset)
    ? Number(reset) * 1000
    : undefined;
}
