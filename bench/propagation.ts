import pg from 'pg';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import { askSystem, bookingsWithout, companyWithParty, international, quiet } from './systems';
import type { Figure } from './timing';

const bookings = 100;
const rounds = 9;
const most = 1.3;

interface Booking {
  readonly id: string;
  readonly rev: number;
  readonly contactPhone?: string;
}

/**
 * From the patch of a company to the last of 100 bookings written: through the product, and by a script. Until the last one is written, it is
 * looked for in the database of the desk: asking the desk for all of them again and again would take time of both.
 */
export async function benchPropagation(): Promise<readonly Figure[]> {
  removeData('bench');
  const stack = await startStack({ name: 'bench' });
  const desk = new pg.Client({ connectionString: stack.database('freight_desk') });
  try {
    await desk.connect();
    const { company, party } = await prepare(stack);
    const product: number[] = [];
    const script: number[] = [];
    for (let round = 0; round < rounds; round++) {
      product.push(await throughProduct(stack, desk, company, party, `01632 960 ${100 + round}`));
      script.push(await byScript(stack, company, party, `01632 960 ${200 + round}`));
      // The product sees the script's change as well; it finds nothing left to write.
      await quiet(stack);
    }
    const best = Math.min(...product);
    const bestScript = Math.min(...script);
    return [
      { what: `company patched to ${bookings} bookings written, best of ${rounds}`, value: best, unit: 'ms' },
      { what: 'the same HTTP calls by a script, best', value: bestScript, unit: 'ms' },
      {
        what: 'through the product against by script',
        value: best / bestScript,
        unit: '×',
        wanted: `at most ${most}`,
        met: best / bestScript <= most,
      },
      {
        what: 'median through the product',
        value: product.sort((a, b) => a - b)[Math.floor(rounds / 2)] ?? 0,
        unit: 'ms',
      },
    ];
  } finally {
    await desk.end();
    await stack.stop();
  }
}

async function prepare(stack: Stack): Promise<{ company: string; party: string }> {
  const { company, party } = await companyWithParty(stack);
  for (let at = 0; at < bookings; at++) {
    await askSystem(stack, 'freight-desk', 'POST', '/v2/bookings', {
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

async function throughProduct(
  stack: Stack,
  desk: pg.Client,
  company: string,
  party: string,
  phone: string,
): Promise<number> {
  const start = performance.now();
  await askSystem(stack, 'customer-book', 'PATCH', `/api/companies/${company}`, { phone });
  for (;;) {
    if ((await bookingsWithout(desk, party, phone)) === 0) return performance.now() - start;
    await new Promise((done) => setTimeout(done, 5));
  }
}

async function byScript(stack: Stack, company: string, party: string, phone: string): Promise<number> {
  const start = performance.now();
  await askSystem(stack, 'customer-book', 'PATCH', `/api/companies/${company}`, { phone });
  await askSystem(stack, 'freight-desk', 'GET', `/v2/parties?where=customerNumber:eq:${company}`);
  const found = await openBookings(stack, party);
  const operations = found.map(({ id, rev }) => ({
    recordId: id,
    ifMatch: `"${rev}"`,
    changes: { contactPhone: international(phone), collectionTown: 'Gullpoint' },
  }));
  await askSystem(stack, 'freight-desk', 'POST', '/v2/bookings/changes', { operations });
  return performance.now() - start;
}

async function openBookings(stack: Stack, party: string): Promise<readonly Booking[]> {
  const query = `where=partyId:eq:${party}&where=status:in:open|confirmed&pageSize=500`;
  return (
    await askSystem<{ data: readonly Booking[] }>(stack, 'freight-desk', 'GET', `/v2/bookings?${query}`)
  ).data;
}
