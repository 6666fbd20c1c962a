import pg from 'pg';
import type { Notice } from '@vast-knot/core';
import { prepared, type Runner, type Statement } from './pool';

/** PostgreSQL takes less than 8,000 bytes (`pg_notify`, NOTIFY in its reference). */
const mostBytes = 7900;

/** Channels of notices: all of them, and those that every process has to hear. */
type Channel = 'vast_knot' | 'vast_knot_systems';

/** On which the keys of lanes are told in which there is something to do. */
export const laneChannel = 'vast_knot_lanes';

const tellStatement = prepared(
  'tell',
  'SELECT pg_notify(channel, notice) FROM unnest($1::text[], $2::text[]) AS told (channel, notice)',
);

/** Tells every server process of something that screens show; heard when the transaction commits. */
export async function tell(runner: Runner, ...notices: readonly Notice[]): Promise<void> {
  await runner.query(telling(notices));
}

/** As `tell`, to be run with other statements. */
export function telling(notices: readonly Notice[]): Statement {
  const told = notices.flatMap((notice): { channel: Channel; text: string }[] => {
    const text = asText(notice);
    const channels: Channel[] = notice.kind === 'system' ? ['vast_knot', 'vast_knot_systems'] : ['vast_knot'];
    return channels.map((channel) => ({ channel, text }));
  });
  return tellStatement([told.map(({ channel }) => channel), told.map(({ text }) => text)]);
}

/** Returns a notice as it is sent. One that is too long says less: of a record that it changed, not in which fields. */
function asText(notice: Notice): string {
  const text = JSON.stringify(notice);
  if (Buffer.byteLength(text) <= mostBytes) return text;
  return JSON.stringify(notice.kind === 'record' ? { ...notice, fields: [] } : { kind: notice.kind });
}

const againMs = 500;

/** Listens on a channel, on a connection of its own, and takes a new one when that breaks. */
export class Listener {
  private client: pg.Client | undefined;
  private stopped = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly channel: string,
    private readonly hear: (text: string) => void,
  ) {}

  async start(): Promise<void> {
    const client = new pg.Client({ connectionString: this.databaseUrl, keepAlive: true });
    let broken = false;
    const breaks = () => {
      if (broken) return;
      broken = true;
      if (this.client === client) this.client = undefined;
      client.end().catch(() => undefined);
      this.again();
    };
    client.on('notification', ({ payload = '' }) => this.hear(payload));
    client.on('error', breaks);
    client.on('end', breaks);
    try {
      await client.connect();
      await client.query(`LISTEN ${this.channel}`);
    } catch (thrown) {
      broken = true;
      client.end().catch(() => undefined);
      throw thrown;
    }
    this.client = client;
    if (this.stopped) await this.stop();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.client?.end().catch(() => undefined);
  }

  private again(): void {
    if (this.stopped) return;
    setTimeout(() => {
      if (!this.stopped) this.start().catch(() => this.again());
    }, againMs);
  }
}

/** Listens for notices. */
export function noticeListener(
  databaseUrl: string,
  hear: (notice: Notice) => void,
  channel: Channel = 'vast_knot',
): Listener {
  return new Listener(databaseUrl, channel, (text) => hear(JSON.parse(text) as Notice));
}
