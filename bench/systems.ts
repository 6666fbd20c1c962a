import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import type pg from 'pg';
import type { Stack } from '../scripts/machine/stack.mjs';

/** Asks a stand-in's own API, as another program would. */
export async function askSystem<T>(
  stack: Stack,
  system: string,
  method: string,
  path: string,
  body?: unknown,
): Promise<T> {
  const { baseUrl, token } = stack.connections[system] ?? { baseUrl: '', token: '' };
  const auth = system === 'customer-book' ? { authorization: `Bearer ${token}` } : { 'x-desk-key': token };
  const response = await fetch(baseUrl + path, {
    method,
    headers: { ...auth, 'content-type': 'application/json' },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
}

/** A telephone number as the desk keeps it. */
export function international(phone: string): string {
  return parsePhoneNumberFromString(phone, 'GB')?.number ?? '';
}

/** Waits until every event that came in has been handled. */
export async function quiet(stack: Stack): Promise<void> {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: stack.database('vast_knot') });
  await client.connect();
  for (let still = 0; still < 3;) {
    await new Promise((done) => setTimeout(done, 300));
    // What is left to be done afterwards, such as the words by which values are found, counts as well.
    const { rowCount } = await client.query(
      `(SELECT 1 FROM inbox WHERE state = 'waiting' LIMIT 1) UNION ALL (SELECT 1 FROM images_unread LIMIT 1)`,
    );
    still = rowCount === 0 ? still + 1 : 0;
  }
  await client.end();
}

/** A new company, and its party at the desk. */
export async function companyWithParty(stack: Stack): Promise<{ company: string; party: string }> {
  const { id: company } = await askSystem<{ id: string }>(stack, 'customer-book', 'POST', '/api/companies', {
    name: 'Gullpoint Slate',
    status: 'active',
    phone: '01632 960 001',
    address: { town: 'Gullpoint', country: 'GB' },
  });
  const { id: party } = await askSystem<{ id: string }>(stack, 'freight-desk', 'POST', '/v2/parties', {
    name: 'Gullpoint Slate',
    customerNumber: company,
  });
  return { company, party };
}

/** Gives a party so many open bookings, `BM10001` and on. They are put in at once: ten thousand creations would be another measurement. */
export async function putInBookings(desk: pg.Client, party: string, count: number): Promise<void> {
  await desk.query(
    `INSERT INTO records (type, id, version, doc, updated_at)
     SELECT 'booking', 'BM' || n, 1, jsonb_build_object('partyId', $1::text, 'title', 'Slate ' || n, 'status', 'open',
       'destinationPort', 'QSNOR', 'tariffZone', 'N1'), now() FROM generate_series(10001, 10000 + $2::integer) AS n`,
    [party, count],
  );
}

/** How many bookings of a party do not have a phone number yet. */
export async function bookingsWithout(
  desk: pg.Client,
  party: string,
  phone: string,
): Promise<number | undefined> {
  const { rows } = await desk.query<{ open: number }>(
    `SELECT count(*)::integer AS open FROM records
     WHERE type = 'booking' AND doc->>'partyId' = $1 AND doc->>'contactPhone' IS DISTINCT FROM $2`,
    [party, international(phone)],
  );
  return rows[0]?.open;
}

/** Waits until a job is done. It is asked of the database itself: the page that shows it counts all records, which is no part of the work. */
export async function untilDone(database: pg.Client, job: string): Promise<void> {
  for (let state = ''; state !== 'done';) {
    await new Promise((done) => setTimeout(done, 50));
    const { rows } = await database.query<{ state: string }>('SELECT state FROM jobs WHERE id = $1', [job]);
    state = rows[0]?.state ?? '';
    if (state === 'failed') throw new Error('the job failed');
  }
}
