import pg from 'pg';
import { Agent } from 'undici';
import { emptyDatabase, proposeFromCatalogue } from '@vast-knot/core';
import { Gates } from '../server/src/connector/gates';
import { readCatalogue } from '../server/src/connector/postgres/catalogue';
import { PostgresConnector } from '../server/src/connector/postgres/connector';
import { Database } from '../server/src/connector/postgres/database';
import { pagesOf } from '../server/src/connector/recordStore';
import { createDatabase } from '../server/src/db/pool';
import { openPostgres, removeData } from '../scripts/machine/postgres.mjs';
import { bestTimes, type Figure } from './timing';

const count = 1_000_000;
const page = 5000;
const rounds = 3;
const least = 0.7;

const table = `CREATE TABLE pier (id bigint PRIMARY KEY, name text NOT NULL, town text, phone text, remark text, depth numeric(6,2),
  open boolean NOT NULL, built date, changed_at timestamptz NOT NULL);
INSERT INTO pier SELECT n, 'Pier ' || n, 'Town ' || n % 97, '+44163296' || n % 10000, 'Remark of ' || n, (n % 4000) / 100.0, n % 3 = 0,
  date '2001-01-01' + n % 9000, timestamptz '2026-01-05T08:00:00Z' + n * interval '1 second' FROM generate_series(1, ${count}) AS n;
ANALYZE pier;`;

/** All rows of a table as records, page by page by their key, against a plain cursor of the same driver over the same columns. */
export async function benchDatabaseRows(): Promise<readonly Figure[]> {
  removeData('bench-rows');
  const postgres = await openPostgres({ name: 'bench-rows', lasting: false });
  const url = new URL(postgres.url('piers'));
  try {
    await createDatabase(url.href);
    const client = new pg.Client({ connectionString: url.href });
    await client.connect();
    await client.query(table);
    const connector = await connectorTo(url);
    const seen = { product: 0, cursor: 0 };
    const times = await bestTimes(
      {
        cursor: async () => {
          seen.cursor = 0;
          await client.query('BEGIN; DECLARE piers CURSOR FOR SELECT * FROM pier');
          for (;;) {
            const { rows } = await client.query(`FETCH ${page} FROM piers`);
            seen.cursor += rows.length;
            if (rows.length === 0) break;
          }
          await client.query('COMMIT');
        },
        product: async () => {
          seen.product = 0;
          for await (const records of pagesOf(connector, { type: 'pier', limit: page }))
            seen.product += records.length;
        },
      },
      rounds,
    );
    if (seen.product !== count || seen.cursor !== count) throw new Error('not all rows were read');
    await client.end();
    const share = times.cursor / times.product;
    const perSecond = (time: number) => Math.round((count / time) * 1000);
    return [
      { what: 'rows a second through a plain cursor', value: perSecond(times.cursor), unit: 'rows' },
      {
        what: `rows a second as records, of ${count.toLocaleString('en')}`,
        value: perSecond(times.product),
        unit: 'rows',
      },
      {
        what: 'as records, against the cursor',
        value: share,
        unit: '×',
        wanted: `at least ${least}`,
        met: share >= least,
      },
    ];
  } finally {
    await postgres.stop();
  }
}

async function connectorTo(url: URL): Promise<PostgresConnector> {
  const connection = {
    ...emptyDatabase,
    baseUrl: `postgres://${url.host}${url.pathname}`,
    user: url.username,
    protection: 'none',
  } as const;
  const system = { key: 'piers', tag: 'PI', name: 'Piers', hue: 12, recordTypes: [] };
  const parts = {
    token: decodeURIComponent(url.password),
    dispatcher: new Agent(),
    allowedOutbound: [url.host],
    gateWith: (limits: Parameters<Gates['of']>[1]) => new Gates().of('piers', limits),
  };
  const { types } = proposeFromCatalogue(await readCatalogue(new Database(connection, { ...parts, system })));
  return new PostgresConnector(
    { ...connection, recordTypes: Object.fromEntries(types.map(({ type, style }) => [type.name, style])) },
    { ...parts, system: { ...system, recordTypes: types.map(({ type }) => type) } },
  );
}
