import { Webhook } from 'standardwebhooks';
import { Agent, fetch } from 'undici';
import type { Pool } from './database';
import type { Dialect } from './definition';

interface Waiting {
  readonly seq: string;
  readonly url: string;
  readonly secret: string;
  readonly recordKey: string;
  readonly event: Record<string, unknown>;
  readonly attempts: number;
}

const batch = 200;
const atOnce = 16;
const mostAttempts = 30;
const timeoutMs = 10_000;
const longestMs = 30_000;

/** What came back of a delivery. */
interface Answer {
  readonly ok: boolean;
  readonly retry: boolean;
  readonly text: string;
  /** After so many milliseconds it is to come again, as the receiver says; absent where it does not say so. */
  readonly afterMs?: number;
}

/** Delivers the outbox: events of one record in order, different records side by side, failures again and later. */
export class Outbox {
  private running: Promise<void> | undefined;
  private readonly delivered: { readonly seq: string; readonly text: string }[] = [];
  private again = false;
  private told = '';
  private stopped = false;
  private readonly timer: NodeJS.Timeout;
  private readonly agent = new Agent({ connections: atOnce });

  constructor(
    private readonly pool: Pool,
    private readonly dialect: Dialect,
    private readonly log: (line: string) => void,
    /** The share of events that are sent twice, and in any order; 0 sends them as they should be. */
    private readonly disorder: () => number = () => 0,
  ) {
    this.timer = setInterval(() => this.wake(), 500);
  }

  /** Starts a delivery round, or another one after the round that runs. */
  wake(): void {
    if (this.stopped) return;
    if (this.running) {
      this.again = true;
      return;
    }
    this.again = false;
    this.running = this.deliverAll()
      // Where its database is away, the next round goes on.
      .catch((thrown: unknown) => this.tell(`outbox: ${String(thrown)}`))
      .finally(() => {
        this.running = undefined;
        if (this.again) this.wake();
      });
  }

  /** Logs a line, and the same one not again and again. */
  private tell(line: string): void {
    if (line !== this.told) this.log(line);
    this.told = line;
  }

  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.timer);
    await this.running;
    await this.agent.close();
  }

  private async deliverAll(): Promise<void> {
    for (;;) {
      const { rows } = await this.pool.query<Waiting>(
        `SELECT seq, url, secret, record_key AS "recordKey", event, attempts
         FROM outbox JOIN subscriptions ON subscriptions.id = subscription_id
         WHERE state = 'waiting' AND next_at <= now() AND NOT EXISTS (
           SELECT 1 FROM outbox AS earlier
           WHERE earlier.state = 'waiting' AND earlier.attempts > 0 AND earlier.next_at > now()
             AND earlier.subscription_id = outbox.subscription_id AND earlier.record_key = outbox.record_key
             AND earlier.seq < outbox.seq)
         ORDER BY seq LIMIT ${batch}`,
      );
      if (rows.length === 0 || this.stopped) return;
      const lanes =
        this.disorder() > 0 ? disordered(rows, this.disorder()) : [...groupBy(rows, laneOf).values()];
      const worker = async () => {
        for (let lane = lanes.shift(); lane; lane = lanes.shift()) await this.deliverLane(lane);
      };
      await Promise.all(Array.from({ length: atOnce }, worker));
      await this.noteDelivered();
    }
  }

  private async deliverLane(lane: readonly Waiting[]): Promise<void> {
    for (const waiting of lane) {
      if (!(await this.deliver(waiting))) return;
    }
  }

  private async deliver({ seq, url, secret, event, attempts }: Waiting): Promise<boolean> {
    const answer = await this.send(url, secret, event);
    if (answer.ok) {
      this.delivered.push({ seq, text: answer.text });
      return true;
    }
    // Whoever says when to come again is not given up, and not asked before.
    const tries = answer.afterMs === undefined ? attempts + 1 : Math.max(attempts, 1);
    const refused = !answer.retry || tries >= mostAttempts;
    const waitMs = Math.min(longestMs, answer.afterMs ?? 250 * 2 ** attempts);
    await this.pool.query(
      `UPDATE outbox SET attempts = $5, state = $2, answer = $3, next_at = now() + $4 * interval '1 ms'
       WHERE seq = $1`,
      [seq, refused ? 'refused' : 'waiting', answer.text, waitMs, tries],
    );
    return refused;
  }

  /** Noted together after each round; what was delivered before the process ended goes out once more, with the same id. */
  private async noteDelivered(): Promise<void> {
    const delivered = this.delivered.splice(0);
    await this.pool.query(
      `UPDATE outbox SET state = 'delivered', answer = delivered.answer
       FROM unnest($1::bigint[], $2::text[]) AS delivered (seq, answer) WHERE outbox.seq = delivered.seq`,
      [delivered.map(({ seq }) => seq), delivered.map(({ text }) => text)],
    );
  }

  private async send(url: string, secret: string, event: Record<string, unknown>): Promise<Answer> {
    const { headers, body } = message(this.dialect, event);
    const id = String(event['id']);
    const now = new Date();
    const signed = {
      ...headers,
      'webhook-id': id,
      'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
      'webhook-signature': new Webhook(secret).sign(id, now, body),
    };
    try {
      const response = await fetch(url, {
        method: 'POST',
        headers: signed,
        body,
        dispatcher: this.agent,
        signal: AbortSignal.timeout(timeoutMs),
      });
      const text = `${response.status} ${(await response.text()).slice(0, 500)}`;
      const retry =
        response.status >= 500 ||
        response.status === 429 ||
        response.status === 401 ||
        response.status === 404;
      // `Retry-After` in seconds (RFC 9110, 10.2.3); a date is not understood here.
      const after = /^\d{1,6}$/.exec(response.headers.get('retry-after') ?? '')?.[0];
      return { ok: response.ok, retry, text, ...(after !== undefined && { afterMs: Number(after) * 1000 }) };
    } catch (thrown) {
      return { ok: false, retry: true, text: thrown instanceof Error ? thrown.message : String(thrown) };
    }
  }
}

/** Returns each event in a lane of its own, in any order, some of them twice. */
function disordered(rows: readonly Waiting[], share: number): (readonly Waiting[])[] {
  const all = rows.flatMap((row) => (Math.random() < share ? [row, row] : [row]));
  return all
    .map((row) => ({ row, at: Math.random() }))
    .sort((a, b) => a.at - b.at)
    .map(({ row }) => [row]);
}

function laneOf({ url, recordKey }: Waiting): string {
  return `${url} ${recordKey}`;
}

/** Returns what `Map.groupBy` does, which this Node.js does not have yet. */
function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}

/** Returns the event as an HTTP message in the content mode of the application (CloudEvents HTTP binding 1.0.2, 3.1 and 3.2). */
export function message(
  dialect: Dialect,
  event: Record<string, unknown>,
): { headers: Record<string, string>; body: string } {
  if (dialect.events.mode === 'structured') {
    return {
      headers: { 'content-type': 'application/cloudevents+json; charset=utf-8' },
      body: JSON.stringify(event),
    };
  }
  const { data, datacontenttype, ...attributes } = event;
  const headers: Record<string, string> = { 'content-type': String(datacontenttype) };
  for (const [name, value] of Object.entries(attributes)) headers[`ce-${name}`] = encodeURI(String(value));
  return { headers, body: JSON.stringify(data) };
}
