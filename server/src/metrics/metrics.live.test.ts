import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { metricsRoute } from '../api/metrics';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { foldGone, Metrics } from './metrics';

const token = 'a token of the harbour';
let database: TestDatabase;
let server: Server;
let url: string;
beforeAll(async () => {
  database = await openTestDatabase();
  const app = express();
  app.get('/metrics', metricsRoute(database.pool, token));
  server = createServer(app);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/metrics`;
});
afterAll(async () => {
  await new Promise((done) => server.close(done));
  await database.close();
});

const fail = (error: unknown) => {
  throw error;
};

/** What is read, by name and labels (Prometheus, text format 0.0.4: `name{label="value"} number`). */
async function read() {
  const answer = await fetch(url, { headers: { authorization: `Bearer ${token}` } });
  expect(answer.headers.get('content-type')).toMatch(/^text\/plain; version=0\.0\.4/);
  const lines = (await answer.text()).split('\n').filter((line) => line !== '' && !line.startsWith('#'));
  return new Map(
    lines.map((line) => {
      const at = line.lastIndexOf(' ');
      // Labels have no order.
      const name = line
        .slice(0, at)
        .replace(/{(.*)}/, (_all, labels: string) => `{${labels.split(',').sort().join(',')}}`);
      return [name, Number(line.slice(at + 1))];
    }),
  );
}

test('what several processes count is one sum, also once one of them is gone', async () => {
  const [one, other] = [new Metrics(database.pool, fail), new Metrics(database.pool, fail)];
  one.runEnded('book', 'wrote', 0.02);
  one.runEnded('book', 'failed', 7);
  other.runEnded('book', 'wrote', 0.2);
  one.wrote('desk', 'written', 40);
  other.wrote('desk', 'written', 2);
  other.asked('desk', true, 0.004);
  await one.stop();
  await other.stop();
  const expected = {
    'vast_knot_runs_total{result="wrote",system="book"}': 2,
    'vast_knot_runs_total{result="failed",system="book"}': 1,
    'vast_knot_writes_total{state="written",system="desk"}': 42,
    'vast_knot_run_duration_seconds_bucket{le="0.025",system="book"}': 1,
    'vast_knot_run_duration_seconds_bucket{le="0.25",system="book"}': 2,
    'vast_knot_run_duration_seconds_bucket{le="+Inf",system="book"}': 3,
    'vast_knot_run_duration_seconds_count{system="book"}': 3,
    'vast_knot_system_request_duration_seconds_count{answered="true",system="desk"}': 1,
  };
  const told = async () => {
    const all = await read();
    return Object.fromEntries(Object.keys(expected).map((name) => [name, all.get(name)]));
  };
  expect(await told()).toEqual(expected);

  for (let round = 0; round < 2; round++) {
    await database.pool.query(
      `UPDATE process_metrics SET at = now() - interval '1 hour' WHERE at < 'infinity'`,
    );
    await foldGone(database.pool);
    expect(await told()).toEqual(expected);
    const { rows } = await database.pool.query('SELECT 1 FROM process_metrics');
    expect(rows).toHaveLength(1);
  }
});

test('what stands how just now is told beside it', async () => {
  await database.pool.query(
    `INSERT INTO systems (key, position, definition, connection) VALUES ('desk', 1, '{}', '{}'), ('book', 2, '{}', '{}');
     INSERT INTO system_states (system, standing) VALUES ('desk', 'away');
     INSERT INTO inbox (system, source, event_id, state, waits_for) VALUES ('book', '/book', 'e', 'waiting', 'desk')`,
  );
  const all = await read();
  expect(all.get('vast_knot_system_up{system="desk"}')).toBe(0);
  expect(all.get('vast_knot_system_up{system="book"}')).toBe(1);
  expect(all.get('vast_knot_system_waiting_events{system="desk"}')).toBe(1);
  expect(all.get('vast_knot_waiting_events')).toBe(1);
});

test.each([undefined, 'Bearer', `Bearer ${token}x`, token])(
  'whoever has not the token (%s) is told nothing',
  async (authorization) => {
    const answer = await fetch(url, { headers: { ...(authorization !== undefined && { authorization }) } });
    expect([answer.status, await answer.text()]).toEqual([401, '']);
  },
);
