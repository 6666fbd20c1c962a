import type { Logger } from 'pino';
import type { Gates } from '../connector/gates';
import type { GateState } from '../connector/gate';
import { noticeListener, tell, type Listener } from '../db/notices';
import { inTransaction, isDatabaseAway, type Pool } from '../db/pool';
import { releaseWaiting } from '../inbox/inbox';
import { queueConnecting } from '../systems/connecting';
import { keepStanding } from '../systems/states';

/** How often it is kept that a system answered, while nothing else changes. */
const freshenMs = 10_000;

interface StandingParts {
  readonly databaseUrl: string;
  readonly pool: Pool;
  readonly log: Logger;
}

/**
 * Tells the database, the other processes and the browsers how systems stand, and hears of it from the other processes. Once a system
 * answers again, what waits for it goes on, and it is asked what changed meanwhile.
 */
export class Standing {
  private readonly latest = new Map<string, GateState>();
  private readonly kept = new Map<string, GateState>();
  private readonly listener: Listener;
  private readonly timer: NodeJS.Timeout;
  private working: Promise<void> = Promise.resolve();

  constructor(
    private readonly gates: Gates,
    private readonly parts: StandingParts,
  ) {
    this.listener = noticeListener(
      parts.databaseUrl,
      (notice) => {
        if (notice.kind !== 'system') return;
        const { system, standing, nextTry, because } = notice;
        this.gates.hear(system, standing, nextTry === null ? undefined : Date.parse(nextTry), because);
      },
      'vast_knot_systems',
    );
    this.timer = setInterval(() => this.freshen(), freshenMs);
  }

  async start(): Promise<void> {
    await this.listener.start();
  }

  /** Takes note of how a system stands. */
  changed(system: string, state: GateState): void {
    this.latest.set(system, state);
    this.work();
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    await this.listener.stop();
    await this.working;
  }

  private freshen(): void {
    for (const { system, state } of this.gates.all)
      // What another process found of it is that process's to keep.
      if (state.standing === 'answers' && state.answeredAt !== this.kept.get(system)?.answeredAt)
        this.latest.set(system, state);
    this.work();
  }

  /** Keeps what is to be kept, one after the other; what cannot be kept now is kept later. */
  private work(): void {
    this.working = this.working.then(async () => {
      for (const [system, state] of [...this.latest]) {
        try {
          await this.keep(system, state);
          if (this.latest.get(system) === state) this.latest.delete(system);
        } catch (thrown) {
          if (!isDatabaseAway(thrown)) this.parts.log.error(thrown, 'how a system stands could not be kept');
        }
      }
    });
  }

  private async keep(system: string, state: GateState): Promise<void> {
    const before = this.kept.get(system);
    const { standing, because, since, nextTry, milliseconds, answeredAt } = state;
    const date = (at: number | undefined) => (at === undefined ? null : new Date(at));
    await inTransaction(this.parts.pool, async (client) => {
      const stood = await keepStanding(client, system, {
        standing,
        because,
        since: new Date(since),
        nextTry: date(nextTry),
        milliseconds: milliseconds ?? null,
        answeredAt: date(answeredAt),
      });
      // Another process may have found it otherwise since.
      const news = before?.standing !== standing || before.nextTry !== nextTry || stood !== standing;
      if (!news) return;
      await tell(client, {
        kind: 'system',
        system,
        standing,
        because,
        nextTry: date(nextTry)?.toISOString() ?? null,
      });
      const back = standing === 'answers' || standing === 'slow';
      if (back) await releaseWaiting(client, system);
      // Also where another process, which may be gone, found it away.
      if (back && stood === 'away') await queueConnecting(client, system);
    });
    this.kept.set(system, state);
  }
}
