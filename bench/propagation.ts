import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import type { Figure } from './timing';

const bookings = 100;
const rounds = 7;

interface Booking {
  readonly id: string;
  readonly rev: number;
  readonly contactPhone?: string;
}

/** From the patch of a company to the last of 100 bookings written: through the product, and by a script. */
export async function benchPropagation(): Promise<readonly Figure[]> {
  removeData('bench');
  const stack = await startStack({ name: 'bench' });
  try {
    const { company, party } = await prepare(stack);
    const product: number[] = [];
    const script: number[] = [];
    for (let round = 0; round < rounds; round++) {
      product.push(await throughProduct(stack, company, party, `01632 960 ${100 + round}`));
      script.push(await byScript(stack, company, party, `01632 960 ${200 + round}`));
      // The product sees the script's change as well; it finds nothing left to write.
      await quiet(stack);
    }
    const best = Math.min(...product);
    const bestScript = Math.min(...script);
    return [
      { what: `company patched to ${bookings} bookings written, best of ${rounds}`, value: best, unit: 'ms' },
      { what: 'the same HTTP calls by a script, best', value: bestScript, unit: 'ms' },
      { what: 'through the product against by script', value: best / bestScript, unit: '×' },
      {
        what: 'median through the product',
        value: product.sort((a, b) => a - b)[Math.floor(rounds / 2)] ?? 0,
        unit: 'ms',
      },
    ];
  } finally {
    await stack.stop();
  }
}

async function call<T>(
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

async function prepare(stack: Stack): Promise<{ company: string; party: string }> {
  const { id: company } = await call<{ id: string }>(stack, 'customer-book', 'POST', '/api/companies', {
    name: 'Gullpoint Slate',
    status: 'active',
    phone: '01632 960 001',
    address: { town: 'Gullpoint', country: 'GB' },
  });
  const { id: party } = await call<{ id: string }>(stack, 'freight-desk', 'POST', '/v2/parties', {
    name: 'Gullpoint Slate',
    customerNumber: company,
  });
  for (let at = 0; at < bookings; at++) {
    await call(stack, 'freight-desk', 'POST', '/v2/bookings', {
      partyId: party,
      title: `Slate ${at}`,
      status: 'open',
      destinationPort: 'QSNOR',
      tariffZone: 'N1',
    });
  }
  await quiet(stack);
  return { company, party };
}

async function throughProduct(stack: Stack, company: string, party: string, phone: string): Promise<number> {
  const wanted = international(phone);
  const start = performance.now();
  await call(stack, 'customer-book', 'PATCH', `/api/companies/${company}`, { phone });
  for (;;) {
    const found = await openBookings(stack, party);
    if (found.every(({ contactPhone }) => contactPhone === wanted)) return performance.now() - start;
    await new Promise((done) => setTimeout(done, 5));
  }
}

async function byScript(stack: Stack, company: string, party: string, phone: string): Promise<number> {
  const start = performance.now();
  await call(stack, 'customer-book', 'PATCH', `/api/companies/${company}`, { phone });
  await call(stack, 'freight-desk', 'GET', `/v2/parties?where=customerNumber:eq:${company}`);
  const found = await openBookings(stack, party);
  const operations = found.map(({ id, rev }) => ({
    recordId: id,
    ifMatch: `"${rev}"`,
    changes: { contactPhone: international(phone), collectionTown: 'Gullpoint' },
  }));
  await call(stack, 'freight-desk', 'POST', '/v2/bookings/changes', { operations });
  return performance.now() - start;
}

async function openBookings(stack: Stack, party: string): Promise<readonly Booking[]> {
  const query = `where=partyId:eq:${party}&where=status:in:open|confirmed&pageSize=500`;
  return (await call<{ data: readonly Booking[] }>(stack, 'freight-desk', 'GET', `/v2/bookings?${query}`))
    .data;
}

function international(phone: string): string {
  return parsePhoneNumberFromString(phone, 'GB')?.number ?? '';
}

/** Waits until every event that came in has been handled. */
async function quiet(stack: Stack): Promise<void> {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: stack.database('vast_knot') });
  await client.connect();
  for (let still = 0; still < 3;) {
    await new Promise((done) => setTimeout(done, 300));
    const { rowCount } = await client.query(`SELECT 1 FROM inbox WHERE state = 'waiting' LIMIT 1`);
    still = rowCount === 0 ? still + 1 : 0;
  }
  await client.end();
}
