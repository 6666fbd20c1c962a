import { createHash } from 'node:crypto';
import pg from 'pg';

export type Pool = pg.Pool;
export type Client = pg.PoolClient;
/** What a statement can run on: the pool, or the client of a transaction. */
export type Runner = pg.Pool | pg.PoolClient;

/**
 * Returns a statement that each connection has the database prepare once, for what is asked again and again: it is then planned no more
 * than a few times. For statements whose best plan does not hang on their values.
 */
export function prepared(name: string, text: string): (values: unknown[]) => Statement {
  return (values) => ({ name, text, values });
}

/** A statement that is prepared, with its values. */
export interface Statement {
  readonly name: string;
  readonly text: string;
  readonly values: unknown[];
}

const combined = new Map<string, string>();

/**
 * Runs statements as one: all or none of them are done, with one way to the database and one commit. None sees what the others change,
 * and what they return is not told.
 */
export async function together(runner: Runner, ...statements: readonly Statement[]): Promise<void> {
  const name = statements.map((each) => each.name).join(' + ');
  const text = combined.get(name) ?? asOne(statements);
  combined.set(name, text);
  // A name tells a statement in no more than 63 bytes.
  const short = createHash('sha256').update(name).digest('base64url');
  await runner.query({ name: short, text, values: statements.flatMap(({ values }) => values) });
}

function asOne(statements: readonly Statement[]): string {
  let bound = 0;
  const parts = statements.map(({ text, values }, at) => {
    const from = bound;
    bound += values.length;
    return `part${at} AS (${text.replaceAll(/\$(\d+)/g, (_all, number) => `$${from + Number(number)}`)})`;
  });
  // What only selects is not done unless somebody reads it; what changes something is done in any case.
  const read = statements.flatMap(({ text }, at) =>
    /\b(INSERT|(?<!FOR |KEY )UPDATE|DELETE) /.test(text) ? [] : [`(SELECT count(*) FROM part${at})`],
  );
  return `WITH ${parts.join(', ')} SELECT ${read.length > 0 ? read.join(', ') : '1'}`;
}

/** Returns a pool whose broken connections are told to `onError` and replaced. */
export function openPool(databaseUrl: string, onError: (error: Error) => void): Pool {
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 24, keepAlive: true });
  pool.on('error', onError);
  pool.on('connect', (client) => client.on('error', onError));
  return pool;
}

/** Makes the database when its server does not have it. */
export async function createDatabase(databaseUrl: string): Promise<void> {
  const target = new URL(databaseUrl);
  const name = decodeURIComponent(target.pathname.slice(1));
  target.pathname = '/postgres';
  const client = new pg.Client({ connectionString: target.href });
  await client.connect();
  try {
    const { rowCount } = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [name]);
    if (rowCount === 0) await client.query(`CREATE DATABASE ${client.escapeIdentifier(name)}`);
  } finally {
    await client.end();
  }
}

/** SQLSTATE classes and codes of a server that is away, ends, or begins (PostgreSQL 15, appendix A). */
const awayStates = /^(08|57P0|53300|25006)/;
const awayCodes = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ENOTFOUND', 'ETIMEDOUT']);

/** Returns whether something was thrown because the database does not answer now: it ended, begins, is not reached, or only reads. */
export function isDatabaseAway(thrown: unknown): boolean {
  if (typeof thrown !== 'object' || thrown === null) return false;
  const { code, message } = thrown as { readonly code?: unknown; readonly message?: unknown };
  if (typeof code === 'string' && (awayStates.test(code) || awayCodes.has(code))) return true;
  // The driver has no code for a connection that ended under a statement.
  return (
    typeof message === 'string' &&
    /^(Connection terminated|Client has encountered a connection error|timeout exceeded when trying to connect)/.test(
      message,
    )
  );
}

/** Runs `work` in one transaction; an exception undoes all of it. */
export async function inTransaction<T>(pool: Pool, work: (client: Client) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  let broken = false;
  try {
    await client.query('BEGIN');
    const result = await work(client);
    await client.query('COMMIT');
    return result;
  } catch (thrown) {
    // A connection that cannot undo is given up, which undoes as well; what went wrong first is what is told.
    await client.query('ROLLBACK').catch(() => (broken = true));
    throw thrown;
  } finally {
    client.release(broken);
  }
}
