import { setTimeout } from 'node:timers/promises';
import { refKey, type RecordRef } from '@vast-knot/core';
import { dueInLane, nextInLane, queueLane, type Lane } from '../inbox/lanes';
import { handleRecord, type RecordHandling } from './handleRecord';

/** Records of a lane whose events are handled at the same time. */
const mostRecords = 64;
/** Events of a lane that are looked through with one statement. */
const lookedThrough = 200;
/** A lane at work is looked through again after so long, if nothing was told of it meanwhile. */
const lookAgainMs = 1000;
/** What is due so soon is waited for; for later events there is another job. */
const soonMs = 50;

/** What a lane is handled with. */
export interface LaneHandling extends RecordHandling {
  /** Calls `woken` whenever there is something new in the lane. Returns what ends that. */
  readonly listen: (lane: Lane, woken: () => void) => () => void;
}

/**
 * Handles the waiting events of a lane: of many records at the same time, those of one record one after the other. A record that takes
 * long holds up no other. When nothing is due any more it asks for another job at the time of the next event.
 */
export async function handleLane(lane: Lane, handling: LaneHandling): Promise<void> {
  const work = new LaneWork(lane, handling);
  const end = handling.listen(lane, () => work.wake());
  try {
    await work.untilNothingIsDue();
  } finally {
    end();
  }
}

class LaneWork {
  /** Records whose events are being handled. */
  private readonly active = new Set<string>();
  /** Records of which an event was seen while they were at work: it may have come too late for that. */
  private readonly seenAgain = new Map<string, RecordRef>();
  /** Until when the events of a record have to wait. */
  private readonly waiting = new Map<string, Date>();
  /** The last event that was looked at in this round; a round begins with the oldest. */
  private at = '0';
  /** When the round was begun, as the database tells it: what became due since is for the next one. */
  private roundAt = '';
  private roundEnded = false;
  private news = false;
  private thrown: unknown;
  /** Something came or ended since it was last looked at. */
  private happened = false;
  private goOn: () => void = () => undefined;

  constructor(
    private readonly lane: Lane,
    private readonly handling: LaneHandling,
  ) {}

  wake(): void {
    this.news = true;
    this.changed();
  }

  private changed(): void {
    this.happened = true;
    this.goOn();
  }

  async untilNothingIsDue(): Promise<void> {
    const { pool, stopping } = this.handling;
    for (;;) {
      if (this.news) this.beginRound();
      if (!this.roundEnded && !this.ends()) await this.beginMore();
      if (this.active.size > 0) {
        await this.somethingHappens();
        continue;
      }
      if (this.thrown !== undefined) throw this.thrown;
      if (stopping()) return queueLane(pool, this.lane, new Date());
      if (this.news || !this.roundEnded) continue;
      const next = await this.nextDue();
      if (!next) return;
      if (next.getTime() > Date.now() + soonMs) return queueLane(pool, this.lane, next);
      // The clock of the database says when it is due, and may be behind ours.
      await setTimeout(soonMs);
      this.beginRound();
    }
  }

  private ends(): boolean {
    return this.handling.stopping() || this.thrown !== undefined;
  }

  private beginRound(): void {
    this.news = false;
    // Somebody may have asked for what waits to be tried now.
    this.waiting.clear();
    this.at = '0';
    this.roundAt = '';
    this.roundEnded = false;
  }

  /** Begins with the records that are next in this round, as far as there is room. */
  private async beginMore(): Promise<void> {
    while (this.active.size < mostRecords) {
      const { at, due } = await dueInLane(this.handling.pool, this.lane, this.at, lookedThrough);
      if (this.roundAt === '') this.roundAt = at;
      for (const { event, ref } of due) {
        if (this.active.size >= mostRecords) return;
        this.at = event;
        const key = refKey(ref);
        if (this.active.has(key)) this.seenAgain.set(key, ref);
        else if ((this.waiting.get(key)?.getTime() ?? 0) <= Date.now()) this.handle(ref);
      }
      if (due.length < lookedThrough) {
        this.roundEnded = true;
        return;
      }
    }
  }

  private handle(ref: RecordRef): void {
    const key = refKey(ref);
    this.active.add(key);
    this.waiting.delete(key);
    handleRecord(ref, this.handling)
      .then((until) => void (until && this.waiting.set(key, until)))
      .catch((thrown: unknown) => (this.thrown ??= thrown))
      .finally(() => {
        this.active.delete(key);
        const again = this.seenAgain.get(key);
        this.seenAgain.delete(key);
        if (again && !this.waiting.has(key) && !this.ends()) this.handle(again);
        this.changed();
      });
  }

  private async somethingHappens(): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    await new Promise<void>((done) => {
      this.goOn = done;
      if (this.happened) done();
      timer = globalThis.setTimeout(() => {
        // What waits for its time may have come to it.
        this.news = true;
        done();
      }, lookAgainMs);
    });
    clearTimeout(timer);
    this.happened = false;
    // Those that end in the same moment make room for as many.
    await new Promise((done) => setImmediate(done));
  }

  private async nextDue(): Promise<Date | undefined> {
    const next = await nextInLane(this.handling.pool, this.lane, this.roundAt);
    const times = [...this.waiting.values(), ...(next ? [next] : [])];
    return times.length === 0
      ? undefined
      : times.reduce((first, time) => (time.getTime() < first.getTime() ? time : first));
  }
}
