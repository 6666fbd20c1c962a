import { randomBytes, randomUUID } from 'node:crypto';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import pg from 'pg';
import { Webhook } from 'standardwebhooks';
import type { RecordView, RunDetail, RunPage, RunSummary } from '@vast-knot/core';
import { readConfig } from '../../server/src/config/config';
import { createDatabase } from '../../server/src/db/pool';
import { startServer, type RunningServer } from '../../server/src/server';
import { authOf, type Application } from '../authOf';
import {
  applications,
  startRegister,
  startStandin,
  type BerthRegister,
  type Standin,
} from '../../standins/src/index';

const root = resolve(__dirname, '../..');
const password = 'tests sign in with this';
/** Where the rules of the demo write files. */
const handover = join(tmpdir(), 'vast-knot-handover');
mkdirSync(handover, { recursive: true });

export interface Answer<T> {
  readonly status: number;
  readonly body: T;
}

/** The whole of the product with its stand-ins, on real databases, in this process. */
export class World {
  readonly database: pg.Pool;
  readonly desk: pg.Pool;
  /** The register, as its own program signs in. */
  readonly berths: pg.Pool;
  private cookie = '';

  private constructor(
    readonly server: RunningServer,
    private readonly standins: Readonly<Record<string, Standin>>,
    private readonly tokens: Readonly<Record<string, string>>,
    private readonly webhookSecret: string,
    readonly environment: NodeJS.ProcessEnv,
    private readonly urlOf: (system: string) => string,
    readonly register: BerthRegister,
  ) {
    this.berths = new pg.Pool({ connectionString: urlOf('berth-register'), max: 2 });
    this.database = new pg.Pool({ connectionString: urlOf('vast-knot'), max: 2 });
    this.desk = new pg.Pool({ connectionString: urlOf('freight-desk'), max: 2 });
  }

  /**
   * `database` are statements that fill the database of the product before its server starts; `reach` are further addresses, `host:port`,
   * that it may reach.
   */
  static async start(
    extra: NodeJS.ProcessEnv = {},
    { database, reach = [] }: { readonly database?: string; readonly reach?: readonly string[] } = {},
  ): Promise<World> {
    const base = process.env['TEST_POSTGRES'];
    if (base === undefined) throw new Error('TEST_POSTGRES names no server; run these tests with npm test.');
    const prefix = `t${randomBytes(4).toString('hex')}`;
    const url = (name: string) => new URL(`/${prefix}_${name}`, base).href;
    const standins: Record<string, Standin> = {};
    const notices = `whsec_${randomBytes(24).toString('base64')}`;
    const tokens: Record<string, string> = {};
    for (const [key, application] of Object.entries(applications)) {
      tokens[key] = randomUUID();
      standins[key] = await startStandin(application, {
        databaseUrl: url(key.replaceAll('-', '_')),
        migrations: resolve(root, 'standins/migrations'),
        port: 0,
        token: tokens[key],
        secret: notices,
        log: () => undefined,
      });
    }
    const registerToken = randomUUID();
    const register = await startRegister({
      databaseUrl: url('berth_register'),
      token: registerToken,
      log: () => undefined,
    });
    const secret = `whsec_${randomBytes(24).toString('base64')}`;
    const environment: NodeJS.ProcessEnv = {
      DATABASE_URL: url('vast_knot'),
      PORT: '0',
      SESSION_SECRET: randomBytes(32).toString('hex'),
      SEAL_KEY: randomBytes(32).toString('base64'),
      MIGRATIONS: resolve(root, 'server/migrations'),
      WEB_FOLDER: '/nowhere',
      DEMO_FOLDER: resolve(root, 'demo'),
      OUT_FOLDERS: JSON.stringify({ handover }),
      USERS: JSON.stringify({
        admin: { password, role: 'administrator' },
        reader: { password, role: 'reader' },
      }),
      CONNECTIONS: JSON.stringify({
        ...Object.fromEntries(
          Object.entries(standins).map(([key, standin]) => [
            key,
            { baseUrl: standin.url, token: tokens[key], webhookSecret: secret },
          ]),
        ),
        inlets: { webhookSecret: secret },
        'berth-register': { baseUrl: register.url, user: register.user, token: registerToken },
      }),
      ENDPOINTS: JSON.stringify({
        'notice-post': {
          name: 'Notice Post',
          url: `${standins['notice-post']?.url ?? ''}/inbox`,
          secret: notices,
        },
      }),
      ALLOWED_OUTBOUND: [
        ...[...Object.values(standins), register].map(({ url: address }) => new URL(address).host),
        ...reach,
      ].join(','),
      LOG_LEVEL: 'silent',
      ...extra,
    };
    if (database !== undefined) await fill(environment['DATABASE_URL'] ?? '', database);
    const server = await startServer(readConfig(environment));
    const world = new World(
      server,
      standins,
      tokens,
      secret,
      environment,
      (system) => url(system.replaceAll('-', '_')),
      register,
    );
    await world.signIn('admin');
    return world;
  }

  async stop(): Promise<void> {
    await this.server.stop();
    for (const standin of Object.values(this.standins)) await standin.stop();
    await this.database.end();
    await this.desk.end();
    await this.berths.end();
    await this.register.stop();
  }

  async signIn(name: string): Promise<void> {
    const response = await fetch(`${this.server.url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });
    this.cookie = response.headers.get('set-cookie')?.split(';')[0] ?? '';
    // The session is kept by the time the whole answer is here, and not sooner.
    await response.arrayBuffer();
  }

  /** Where our own API is. */
  get url(): string {
    return this.server.url;
  }

  /** What a request carries in the name of the person who is signed in. */
  get signedIn(): Record<string, string> {
    return { cookie: this.cookie };
  }

  /** Asks our own API as the person who is signed in. */
  async api<T>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const response = await fetch(`${this.server.url}/api${path}`, {
      method,
      headers: {
        cookie: this.cookie,
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    return { status: response.status, body: (text === '' ? undefined : JSON.parse(text)) as T };
  }

  /** Sends or fetches something that is not JSON, such as a file. */
  async send<T>(
    method: string,
    path: string,
    body?: string | Uint8Array<ArrayBuffer>,
    type?: string,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const response = await fetch(`${this.server.url}/api${path}`, {
      method,
      headers: { cookie: this.cookie, ...(type !== undefined && { 'content-type': type }), ...headers },
      ...(body !== undefined && { body }),
    });
    const text = await response.text();
    const json = response.headers.get('content-type')?.includes('json') ?? false;
    return { status: response.status, body: (json ? JSON.parse(text) : text) as T };
  }

  /** Fetches a file as its bytes. */
  async file(path: string): Promise<Uint8Array> {
    const response = await fetch(`${this.server.url}/api${path}`, { headers: { cookie: this.cookie } });
    return new Uint8Array(await response.arrayBuffer());
  }

  /** Asks a stand-in's own API, as any other program would. */
  async ask<T>(system: Application, method: string, path: string, body?: unknown): Promise<Answer<T>> {
    const token = this.tokens[system] ?? '';
    const auth = authOf[system](token);
    const response = await fetch(`${this.standins[system]?.url ?? ''}${path}`, {
      method,
      headers: { ...auth, ...(body !== undefined && { 'content-type': 'application/json' }) },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    return { status: response.status, body: (text === '' ? undefined : JSON.parse(text)) as T };
  }

  /** Sends a message to the intake, signed unless told otherwise. */
  async hook(
    system: string,
    body: string,
    headers: Record<string, string>,
    sign = true,
  ): Promise<Answer<Record<string, unknown>>> {
    const id = randomUUID();
    const now = new Date();
    const signature = sign
      ? {
          'webhook-id': id,
          'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
          'webhook-signature': new Webhook(this.webhookSecret).sign(id, now, body),
        }
      : {};
    const response = await fetch(`${this.server.url}/hooks/${system}`, {
      method: 'POST',
      headers: { ...headers, ...signature },
      body,
    });
    return { status: response.status, body: (await response.json()) as Record<string, unknown> };
  }

  async changeCompany(id: string, set: Record<string, unknown>): Promise<void> {
    const { status } = await this.ask('customer-book', 'PATCH', `/api/companies/${id}`, set);
    if (status !== 200) throw new Error(`the company was not changed: ${status}`);
  }

  /** Lets something happen in a system that it never tells of. */
  async forgetEvents(system: Application, happen: () => Promise<void>): Promise<void> {
    const pool = new pg.Pool({ connectionString: this.urlOf(system), max: 1 });
    await pool.query('ALTER TABLE subscriptions RENAME TO forgotten');
    await pool.query('CREATE TABLE subscriptions (LIKE forgotten INCLUDING ALL)');
    try {
      await happen();
    } finally {
      await pool.query('DROP TABLE subscriptions');
      await pool.query('ALTER TABLE forgotten RENAME TO subscriptions');
      await pool.end();
    }
  }

  async booking(id: string): Promise<Record<string, unknown>> {
    return (await this.ask<Record<string, unknown>>('freight-desk', 'GET', `/v2/bookings/${id}`)).body;
  }

  async bookingsOf(party: string): Promise<Record<string, unknown>[]> {
    const { body } = await this.ask<{ data: Record<string, unknown>[] }>(
      'freight-desk',
      'GET',
      `/v2/bookings?where=partyId:eq:${party}&pageSize=500`,
    );
    return body.data;
  }

  async peopleOf(company: string): Promise<Record<string, unknown>[]> {
    const { body } = await this.ask<{ items: Record<string, unknown>[] }>(
      'customer-book',
      'GET',
      `/api/people?filter[company_id]=${company}`,
    );
    return body.items;
  }

  async runs(query = ''): Promise<readonly RunSummary[]> {
    return (await this.api<RunPage>('GET', `/runs?${query}`)).body.runs;
  }

  async run(id: string): Promise<RunDetail> {
    return (await this.api<RunDetail>('GET', `/runs/${id}`)).body;
  }

  async record(system: string, type: string, id: string): Promise<RecordView> {
    return (await this.api<RecordView>('GET', `/records/${system}/${type}/${id}`)).body;
  }

  /** The newest run of a record, once it is settled; a write of ours that came back is none. */
  async settled(recordId: string, after = '0'): Promise<RunSummary> {
    return this.newest(recordId, ({ id, result }) => BigInt(id) > BigInt(after) && result !== 'own write');
  }

  /** The newest write of ours to a record that came back as an event. */
  async ownWrite(recordId: string): Promise<RunSummary> {
    return this.newest(recordId, ({ result }) => result === 'own write');
  }

  private newest(recordId: string, fits: (run: RunSummary) => boolean): Promise<RunSummary> {
    return until(`run of ${recordId}`, async () =>
      (await this.runs(`search=${recordId}`)).find(
        (run) => run.ref?.id === recordId && run.state !== 'waiting' && fits(run),
      ),
    );
  }

  /** A worker in a process of its own, which can be killed. */
  async worker(): Promise<ChildProcess> {
    const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
      cwd: root,
      env: { ...process.env, ...this.environment, ROLE: 'worker', NODE_OPTIONS: '' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const [line] = (await once(child.stdout, 'data')) as [Buffer];
    if (!line.toString().includes('http')) throw new Error(`the worker said ${line.toString()}`);
    return child;
  }
}

async function fill(url: string, statements: string): Promise<void> {
  await createDatabase(url);
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query(statements);
  await client.end();
}

/** How long is waited for something: a machine that others use as well stands still for seconds. */
const patienceMs = 45_000;

/** Waits until `look` finds something, for at most 45 seconds. */
export async function until<T>(what: string, look: () => Promise<T | undefined | false>): Promise<T> {
  const end = Date.now() + patienceMs;
  while (Date.now() < end) {
    const found = await look();
    if (found !== undefined && found !== false) return found;
    await new Promise((done) => setTimeout(done, 40));
  }
  throw new Error(`${what} did not come within ${patienceMs / 1000} seconds`);
}
