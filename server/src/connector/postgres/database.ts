import { Pool, type CustomTypesConfig, type FieldDef, type PoolClient } from 'pg';
import {
  databaseAddress,
  WorkspaceError,
  type DatabaseConnection,
  type Json,
  type Problem,
  printJson,
} from '@vast-knot/core';
import type { ConnectorParts } from '../connector';
import type { Gate, Passage } from '../gate';
import { usualLimits } from '../gate';
import { GuardedSocket, RefusedAddress } from './line';
import { sqlProblem } from './sqlProblem';
import { readersIn } from './values';

/** A statement with the values for its places. */
export interface Statement {
  readonly sql: string;
  readonly values?: readonly unknown[];
  /** The values as they are shown, by the columns that they are for, so that sensitive ones are known. */
  readonly shown?: Json;
}

/** The rows that a statement gave, with the values of each in the order of the columns. */
export interface Rows {
  readonly columns: readonly FieldDef[];
  readonly rows: readonly (readonly Json[])[];
  /** Rows that it changed, or gave. */
  readonly count: number;
}

/** How a statement went: its rows, or what was thrown that is no failure of the line. */
type Answer = Passage & ({ readonly rows: Rows } | { readonly thrown: unknown });

/** Of what is only shown, so much is kept. */
const shownRows = 200;
const connectMs = 5000;

/**
 * The line to one database. Statements go through the gate of the system, each in a transaction of its own; what goes wrong is said in our
 * words.
 */
export class Database {
  readonly address: string;
  private readonly pool: Pool;
  private readonly gate: Gate;
  private readonly ready = new WeakSet<PoolClient>();
  private readonly types: CustomTypesConfig;

  constructor(
    connection: DatabaseConnection,
    private readonly parts: ConnectorParts,
  ) {
    const { requestsAtOnce, requestsPerSecond, patienceSeconds } = connection.limits ?? {};
    const patienceMs = patienceSeconds === undefined ? usualLimits.patienceMs : patienceSeconds * 1000;
    this.gate = parts.gateWith({
      atOnce: requestsAtOnce ?? 4,
      patienceMs: patienceMs + 1000,
      ...(requestsPerSecond !== undefined && { perSecond: requestsPerSecond }),
    });
    this.address = connection.baseUrl;
    const { host = '', port, database } = databaseAddress(connection.baseUrl) ?? {};
    this.pool = new Pool({
      host,
      port,
      database,
      user: connection.user,
      password: parts.token,
      ssl:
        connection.protection === 'none'
          ? false
          : { rejectUnauthorized: connection.protection === 'verified' },
      stream: () => new GuardedSocket(parts.allowedOutbound),
      // One more hears of what is noted, and is no statement.
      max: (requestsAtOnce ?? 4) + 1,
      connectionTimeoutMillis: connectMs,
      idleTimeoutMillis: 10_000,
      // A pool that nobody uses any more holds nothing up.
      allowExitOnIdle: true,
      statement_timeout: patienceMs,
      idle_in_transaction_session_timeout: patienceMs,
      application_name: 'vast-knot',
    });
    // A connection that breaks is replaced by the next that is asked for.
    this.pool.on('error', () => undefined);
    this.pool.on('connect', (client) => client.on('error', () => undefined));
    const readers = readersIn(connection.zone);
    this.types = { getTypeParser: ((oid: number) => readers(oid)) as CustomTypesConfig['getTypeParser'] };
  }

  /** Runs a statement. Throws a WorkspaceError when the database is not there, or refuses. */
  async run(statement: Statement): Promise<Rows> {
    try {
      return await this.attempt(statement);
    } catch (thrown) {
      throw thrown instanceof WorkspaceError ? thrown : this.problem(thrown);
    }
  }

  /** Runs a statement. Throws a WorkspaceError when the database is not there, and what the database throws where it refuses. */
  async attempt(statement: Statement): Promise<Rows> {
    const answer = await this.gate
      .through(async (signal): Promise<Answer> => {
        try {
          return { status: 200, headers: {}, rows: await this.send(statement, signal) };
        } catch (thrown) {
          // Only what is not there is a failure of the line.
          if (!(thrown instanceof RefusedAddress) && sqlProblem(thrown).away) throw thrown;
          return { status: 200, headers: {}, thrown };
        }
      })
      .catch((thrown: unknown) => {
        throw thrown instanceof WorkspaceError ? thrown : this.problem(thrown);
      });
    if ('rows' in answer) return answer.rows;
    throw answer.thrown;
  }

  /** Returns what was thrown by a statement as a failure that names the system. */
  problem(thrown: unknown): WorkspaceError {
    if (thrown instanceof RefusedAddress)
      return this.failure('refused', `cannot be reached: ${thrown.message}`);
    const { code, because, away } = sqlProblem(thrown);
    return away ? this.failure(code, `does not answer (${because}).`) : this.failure(code, `: ${because}.`);
  }

  /** Returns a failure that names the system. Only what is not available now is tried again. */
  failure(code: Problem['code'], what: string): WorkspaceError {
    const retry = code === 'unavailable' || code === 'changed in between';
    const { waits } = this.gate;
    const name = this.parts.system.name || 'The database';
    return new WorkspaceError({
      code,
      message: what.startsWith(':') ? `${name}${what}` : `${name} ${what}`,
      retry,
      ...(code === 'unavailable' && waits && { waits: { ...waits, sent: true } }),
    });
  }

  /** Calls `news` with each notice of a channel, until what is returned is called, or the line breaks: then `ended`. */
  async hear(channel: string, news: () => void, ended: () => void): Promise<() => void> {
    const client = await this.pool.connect();
    let open = true;
    const end = () => {
      if (!open) return;
      open = false;
      client.release(true);
    };
    client.on('notification', news);
    client.once('end', () => {
      if (!open) return;
      end();
      ended();
    });
    try {
      await client.query(`LISTEN ${client.escapeIdentifier(channel)}`);
    } catch (thrown) {
      end();
      throw thrown;
    }
    return end;
  }

  private async send(statement: Statement, signal: AbortSignal): Promise<Rows> {
    const began = performance.now();
    const at = new Date().toISOString();
    const tell = (rows: Rows | undefined, problem: string) =>
      this.parts.watch?.({
        secret: this.parts.token,
        exchanged: {
          at,
          method: 'SQL',
          url: this.address,
          statement: statement.sql,
          requestHeaders: {},
          requestBody: statement.shown === undefined ? '' : printJson(statement.shown),
          status: undefined,
          ...(rows && { rows: rows.count }),
          answerHeaders: {},
          answerBody: rows ? shownAnswer(rows) : '',
          milliseconds: Math.round(performance.now() - began),
          problem,
        },
      });
    try {
      const rows = await this.onClient(statement, signal);
      tell(rows, '');
      return rows;
    } catch (thrown) {
      tell(undefined, thrown instanceof RefusedAddress ? thrown.message : sqlProblem(thrown).because);
      throw thrown;
    }
  }

  private async onClient({ sql, values = [] }: Statement, signal: AbortSignal): Promise<Rows> {
    const client = await this.pool.connect();
    let whole = false;
    // Whoever does not wait any longer leaves the line; the database ends the statement by its own clock.
    const leave = () => client.release(new Error('Nobody waits for it any longer.'));
    const abandoned = new Promise<never>((_done, fail) => {
      signal.addEventListener('abort', () => fail(new Error(String(signal.reason))), { once: true });
    });
    try {
      const work = async () => {
        if (!this.ready.has(client)) {
          await client.query(`SET TimeZone = 'UTC'; SET DateStyle = 'ISO'; SET IntervalStyle = 'iso_8601'`);
          this.ready.add(client);
        }
        return client.query<Json[]>({ text: sql, values: [...values], rowMode: 'array', types: this.types });
      };
      const working = work();
      working.catch(() => undefined);
      const { fields, rows, rowCount } = await Promise.race([working, abandoned]);
      whole = true;
      return { columns: fields, rows, count: rowCount ?? rows.length };
    } catch (thrown) {
      // After an error that the database told of, the line is as good as before.
      whole = !signal.aborted && !sqlProblem(thrown).away;
      throw thrown;
    } finally {
      if (whole) client.release();
      else leave();
    }
  }
}

/** Returns rows as they are shown: as objects, and of many the first. */
function shownAnswer({ columns, rows }: Rows): string {
  const shown = rows
    .slice(0, shownRows)
    .map((row) => Object.fromEntries(columns.map(({ name }, at) => [name, row[at] ?? null])));
  return printJson(shown);
}
