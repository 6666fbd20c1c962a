import pg from 'pg';
import { fleetLog } from '../fleetLog';
import { createIfMissing, inTransaction, type Client, type Pool } from '../kit/database';
import { Random } from '../seed/random';
import { ports } from '../seed/skerry';
import { tables } from './tables';

export interface RegisterOptions {
  readonly databaseUrl: string;
  /** The password of the user that other programs sign in as. */
  readonly token: string;
  readonly log: (line: string) => void;
}

/** The register while its own program runs. */
export interface BerthRegister {
  /** `postgres://host:port/database`, for other programs. */
  readonly url: string;
  /** As whom they sign in. */
  readonly user: string;
  /** Gives berths to the calls that have none, as the program does every other second. Returns how many it gave. */
  assignBerths(): Promise<number>;
  stop(): Promise<void>;
}

/** So often the program looks for calls without a berth. */
const everyMs = 2000;

/** Starts the Berth Register: a database without an API, and the small program that works in it. */
export async function startRegister({ databaseUrl, token, log }: RegisterOptions): Promise<BerthRegister> {
  await createIfMissing(databaseUrl);
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 2, keepAlive: true });
  // A connection that breaks is replaced by the next that is asked for.
  pool.on('error', () => undefined);
  const user = userOf(databaseUrl);
  await makeTables(pool);
  await letIn(pool, user, token).catch((thrown: unknown) => {
    // Who may make no users on this server has a register that nobody else reads.
    if (!(thrown instanceof pg.DatabaseError) || thrown.code !== '42501') throw thrown;
    log(`The Berth Register lets nobody else in: ${thrown.message}.`);
  });
  let working: Promise<unknown> = Promise.resolve();
  const timer = setInterval(() => {
    working = working
      .then(() => assignBerths(pool))
      .catch((thrown: unknown) => log(`The Berth Register: ${String(thrown)}`));
  }, everyMs);
  const { host, pathname } = new URL(databaseUrl);
  return {
    url: `postgres://${host}${pathname}`,
    user,
    assignBerths: () => assignBerths(pool),
    async stop() {
      clearInterval(timer);
      await working;
      await pool.end();
    },
  };
}

/** Returns the user that other programs sign in as: users belong to a whole server, on which there may be several registers. */
export function userOf(databaseUrl: string): string {
  return `${new URL(databaseUrl).pathname.slice(1)}_link`;
}

async function makeTables(pool: Pool): Promise<void> {
  const { rows } = await pool.query<{ there: boolean }>(`SELECT to_regclass('call') IS NOT NULL AS there`);
  if (rows[0]?.there) return;
  await inTransaction(pool, async (client) => {
    await client.query(tables);
    await seed(client);
  });
}

/** Three berths in each port, and the calls of the voyages that are planned. */
async function seed(client: Client): Promise<void> {
  const random = new Random(47);
  const berths = ports.flatMap(({ code, name }) =>
    ['North Quay', 'South Quay', 'Ramp'].map((place, at) => ({
      code: `${code.slice(2)}-${at + 1}`,
      port_code: code,
      name: `${name} ${place}`,
      metres: 60 + random.below(120),
      kind: place === 'Ramp' ? 'ramp' : 'quay',
    })),
  );
  await client.query(
    `INSERT INTO berth (code, port_code, name, metres, kind)
     SELECT code, port_code, name, metres, kind FROM jsonb_populate_recordset(NULL::berth, $1)`,
    [JSON.stringify(berths)],
  );
  const { voyage = [], vessel = [] } = Object.fromEntries(fleetLog.seed());
  const calls = voyage
    .filter((each) => each['Status Code'] === 'P')
    .map((each) => {
      const [day = '', month = '', year = ''] = String(each['Sails On']).split('/');
      return {
        voyage_no: each['Voyage No'],
        vessel_code: vessel[Number(String(each['Vessel']).slice(2)) - 11]?.['Vessel Code'],
        port_code: each['To Port Code'],
        due_on: `${year}-${month}-${day}`,
      };
    });
  await client.query(
    `INSERT INTO call (voyage_no, vessel_code, port_code, due_on)
     SELECT voyage_no, vessel_code, port_code, due_on FROM jsonb_populate_recordset(NULL::call, $1)`,
    [JSON.stringify(calls)],
  );
  await assignBerths(client);
}

/** Makes the user for other programs, or gives it its password anew. */
async function letIn(pool: Pool, user: string, password: string): Promise<void> {
  const { rowCount } = await pool.query('SELECT 1 FROM pg_roles WHERE rolname = $1', [user]);
  const name = pg.escapeIdentifier(user);
  await pool.query(
    `${rowCount === 0 ? 'CREATE' : 'ALTER'} ROLE ${name} LOGIN PASSWORD ${pg.escapeLiteral(password)}`,
  );
  await pool.query(`GRANT SELECT ON berth, call TO ${name}; GRANT INSERT, UPDATE, DELETE ON call TO ${name};
    GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO ${name}`);
}

/** A planned call gets the first berth of its port that nobody has on that day. */
async function assignBerths(runner: Pool | Client): Promise<number> {
  const { rowCount } = await runner.query(
    `WITH open AS (
       SELECT id, port_code, due_on, row_number() OVER (PARTITION BY port_code, due_on ORDER BY id) AS place
       FROM call WHERE berth IS NULL AND state = 'planned' AND due_on IS NOT NULL
     ), free AS (
       SELECT berth.code, open_days.port_code, open_days.due_on,
         row_number() OVER (PARTITION BY open_days.port_code, open_days.due_on ORDER BY berth.code) AS place
       FROM (SELECT DISTINCT port_code, due_on FROM open) AS open_days
         JOIN berth ON berth.port_code = open_days.port_code AND NOT berth.out_of_use
       WHERE NOT EXISTS (SELECT FROM call WHERE call.berth = berth.code AND call.due_on = open_days.due_on)
     )
     UPDATE call SET berth = free.code FROM open JOIN free USING (port_code, due_on, place) WHERE call.id = open.id`,
  );
  return rowCount ?? 0;
}
