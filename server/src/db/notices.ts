import pg from 'pg';
import type { Notice } from '@vast-knot/core';
import type { Runner } from './pool';

/** Tells every server process of something that screens show; heard when the transaction commits. */
export async function tell(runner: Runner, ...notices: readonly Notice[]): Promise<void> {
  await runner.query(`SELECT pg_notify('vast_knot', notice) FROM unnest($1::text[]) AS told (notice)`, [
    notices.map((notice) => JSON.stringify(notice)),
  ]);
}

/** Listens for notices on a connection of its own, and takes a new one when that breaks. */
export class NoticeListener {
  private client: pg.Client | undefined;
  private stopped = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly hear: (notice: Notice) => void,
  ) {}

  async start(): Promise<void> {
    const client = new pg.Client({ connectionString: this.databaseUrl });
    client.on('notification', ({ payload }) => this.hear(JSON.parse(payload ?? 'null') as Notice));
    client.on('error', () => this.again());
    await client.connect();
    await client.query('LISTEN vast_knot');
    this.client = client;
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.client?.end();
  }

  private again(): void {
    if (this.stopped) return;
    setTimeout(() => void this.start().catch(() => this.again()), 1000);
  }
}
