import express from 'express';
import pg from 'pg';

/**
 * What a script would be that takes the same events and makes the same calls: an HTTP server that inserts a row for each event, and work
 * that goes through the rows a hundred at a time, looks their parties up with one request and writes them with one. With `ONE_BY_ONE`
 * each event is looked up and written for itself, as events of one record have to be.
 */
const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 24 });
const { DESK, DESK_KEY, WORKS, ONE_BY_ONE } = process.env;
await pool.query('CREATE TABLE IF NOT EXISTS bare (id bigserial PRIMARY KEY, event jsonb NOT NULL)');

const waiting = [];
const app = express();
app.use(express.raw({ type: () => true, limit: '1mb' }));
app.post('/hooks/:system', async (request, response) => {
  const event = request.body.toString('utf8');
  const { rows } = await pool.query('INSERT INTO bare (event) VALUES ($1) RETURNING id', [event]);
  response.status(202).json({ taken: true, id: rows[0].id });
  if (WORKS) waiting.push(JSON.parse(event).data.record);
});

async function ask(method, path, body) {
  const answer = await fetch(DESK + path, {
    method,
    headers: { 'x-desk-key': DESK_KEY, 'content-type': 'application/json' },
    ...(body && { body: JSON.stringify(body) }),
  });
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status}`);
  return answer.json();
}

async function work() {
  for (;;) {
    const some = waiting.splice(0, ONE_BY_ONE ? 1 : 100);
    if (some.length === 0) {
      await new Promise((done) => setTimeout(done, 5));
      continue;
    }
    const phones = new Map(some.map(({ id, phone }) => [id, phone]));
    const { data } = await ask(
      'GET',
      `/v2/parties?where=customerNumber:in:${[...phones.keys()].join('|')}&pageSize=200`,
    );
    const operations = data.map(({ id, rev, customerNumber }) => ({
      recordId: id,
      ifMatch: `"${rev}"`,
      changes: { phone: phones.get(customerNumber) },
    }));
    await ask('POST', '/v2/parties/changes', { operations });
  }
}
if (WORKS) void work();

const server = app.listen(0, '127.0.0.1', () => {
  console.log(`port ${server.address().port}`);
  console.log('ready');
});
process.once('SIGTERM', () => process.exit(0));
