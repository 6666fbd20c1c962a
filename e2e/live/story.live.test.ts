import { fieldsOf } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

/** The party of company C-1001, and its bookings that are still to be carried. */
const party = '401001';
const isOpen = (booking: Record<string, unknown>) =>
  booking['status'] === 'open' || booking['status'] === 'confirmed';

describe('a company gets a new phone number and address in Customer Book', () => {
  test('every open booking of its party gets them in Freight Desk, the closed ones do not, and the run tells each step', async () => {
    const before = await world.bookingsOf(party);
    await world.changeCompany('C-1001', { phone: '01632 960 777', address: { town: 'Murrow' } });
    const run = await world.settled('C-1001');
    expect(run).toMatchObject({
      result: 'wrote',
      recordName: 'North Skerry Smokehouse',
      changed: ['phone', 'address.town'],
    });

    const after = await world.bookingsOf(party);
    const open = after.filter(isOpen);
    expect(open.length).toBeGreaterThan(0);
    for (const booking of open) {
      expect(booking).toMatchObject({ contactPhone: '+441632960777', collectionTown: 'Murrow', rev: 2 });
    }
    expect(after.filter((booking) => !isOpen(booking))).toEqual(before.filter((booking) => !isOpen(booking)));

    const detail = await world.run(run.id);
    expect(detail.report?.rules[0]?.steps.map(({ kind }) => kind)).toEqual([
      'guard',
      'find',
      'find',
      ...open.map(() => 'write'),
    ]);
    const people = await world.peopleOf('C-1001');
    expect(people.length).toBeGreaterThan(0);
    for (const person of people) {
      expect(person).toMatchObject({ phone: '01632 960 777', address: { town: 'Murrow' } });
    }
    expect(detail.outcome.map(({ change, state }) => [change.ref.id, state])).toEqual(
      [...open, ...people].map(({ id }) => [id, 'written']),
    );
    expect(detail.outcome.slice(0, 1).flatMap(({ change }) => fieldsOf(change))).toContainEqual({
      path: 'contactPhone',
      before: '+441632960100',
      after: '+441632960777',
    });
  });

  test('the events of our own writes come back and are recognised', async () => {
    const own = (await world.bookingsOf(party)).filter(isOpen);
    for (const { id } of own) {
      const run = await world.ownWrite(String(id));
      expect(run).toMatchObject({ changed: [], writes: 0 });
    }
  });

  test('another field changes nothing anywhere, and the run list says why', async () => {
    const before = await world.bookingsOf(party);
    const [last] = await world.runs();
    await world.changeCompany('C-1001', { credit_terms: 'net_14' });
    const run = await world.settled('C-1001', last?.id);
    expect(run).toMatchObject({
      result: 'nothing',
      because: expect.stringContaining('Only Credit terms changed; the rule watches Phone and Address.'),
      writes: 0,
    });
    expect(await world.bookingsOf(party)).toEqual(before);
  });

  test('a number that is none is reported by field and record, and nothing is written', async () => {
    const [last] = await world.runs();
    await world.changeCompany('C-1002', { phone: 'ask Runa' });
    const run = await world.settled('C-1002', last?.id);
    // The people of the company take the text as it is; the bookings want a number.
    expect(run.result).toBe('partly failed');
    expect(run.because).toMatch(/contactPhone of booking BK\d+: “ask Runa” is not a telephone number\./);
  });
});

describe('a booking without a tariff zone', () => {
  const booking = (destinationPort: string) => ({
    partyId: party,
    title: 'Slate',
    status: 'open',
    destinationPort,
  });

  test('gets it from the table when it is created', async () => {
    const { body } = await world.ask<{ id: string }>(
      'freight-desk',
      'POST',
      '/v2/bookings',
      booking('qswes'),
    );
    await world.settled(body.id);
    expect(await world.booking(body.id)).toMatchObject({ tariffZone: 'W2' });
  });

  test('whose port has no row is reported with table and key', async () => {
    const { body } = await world.ask<{ id: string }>(
      'freight-desk',
      'POST',
      '/v2/bookings',
      booking('QSMUR'),
    );
    expect((await world.settled(body.id)).because).toMatch(
      /The table “Ports to tariff zones” has no row for “QSMUR”\./,
    );
    expect(await world.booking(body.id)).not.toHaveProperty('tariffZone');
  });
});

describe('order', () => {
  test('many changes of one record are handled one after another, and the last one stands', async () => {
    const numbers = Array.from({ length: 15 }, (_none, at) => `01632 960 8${String(at).padStart(2, '0')}`);
    for (const phone of numbers) await world.changeCompany('C-1005', { phone });
    const last = numbers.at(-1)?.replaceAll(' ', '').slice(1);
    const phones = async () =>
      (await world.bookingsOf('401005')).filter(isOpen).map((booking) => booking['contactPhone']);
    const all = await until('the last number', async () => {
      const found = await phones();
      return found.every((phone) => phone === `+44${last}`) && found;
    });
    expect(all.length).toBeGreaterThan(0);
    const runs = (await world.runs('search=C-1005')).filter(({ ref }) => ref?.id === 'C-1005').toReversed();
    const details = await Promise.all(runs.map(({ id }) => world.run(id)));
    expect(details.map(({ event }) => event?.record['phone'])).toEqual(numbers);
    expect(details.slice(1).map(({ event }) => event?.before?.['phone'])).toEqual(numbers.slice(0, -1));
  });
});
