import { once } from 'node:events';
import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  // The workers are processes of their own here, so that they can be killed.
  world = await World.start({ ROLE: 'api' });
});
afterAll(() => world.stop());

const isOpen = (booking: Record<string, unknown>) =>
  booking['status'] === 'open' || booking['status'] === 'confirmed';
const openOf = async (party: string) => (await world.bookingsOf(party)).filter(isOpen);
const dial = (dials: Record<string, unknown>) => world.ask('freight-desk', 'PUT', '/dials', dials);
const calm = { latencyMs: 0, errorRate: 0, outage: false, requestsPerSecond: null };

/** The first company from a number on whose party has several bookings to be carried. */
async function companyWithBookings(from: number): Promise<{ company: string; party: string }> {
  for (let number = from; ; number++) {
    if ((await openOf(`40${number}`)).length > 1) return { company: `C-${number}`, party: `40${number}` };
  }
}

async function withWorker(work: () => Promise<void>): Promise<void> {
  const worker = await world.worker();
  try {
    await work();
  } finally {
    worker.kill('SIGTERM');
    await once(worker, 'exit');
  }
}

describe.each([
  [
    'answers 500',
    { errorRate: 1 },
    /Freight Desk: This failure was asked for by the dials\. \(500\)/,
    'C-1010',
    '401010',
  ],
  ['does not answer', { outage: true }, /Freight Desk does not answer/, 'C-1011', '401011'],
])('a system that %s', (_name, dials, because, company, party) => {
  test('is tried again with the reason shown, and gets the write once', async () => {
    const before = await openOf(party);
    await withWorker(async () => {
      await dial(dials);
      await world.changeCompany(company, { phone: '01632 960 444' });
      await until('the first try', async () => {
        const [run] = await world.runs(`search=${company}`);
        return run?.state === 'waiting' && because.test(run.because);
      });
      await dial(calm);
      const run = await world.settled(company);
      expect(run.result).toBe('wrote');
    });
    const after = await openOf(party);
    expect(before.length).toBeGreaterThan(0);
    expect(after.map(({ contactPhone, rev }) => [contactPhone, rev])).toEqual(
      before.map(({ rev }) => ['+441632960444', Number(rev) + 1]),
    );
  });
});

test('a system that takes one request a second is asked at its pace, and gets the write once', async () => {
  const before = await openOf('401012');
  await withWorker(async () => {
    await dial({ requestsPerSecond: 1 });
    await world.changeCompany('C-1012', { phone: '01632 960 444' });
    const run = await world.settled('C-1012');
    expect(run).toMatchObject({ result: 'wrote', attempts: 1 });
    await dial(calm);
  });
  const after = await openOf('401012');
  expect(after.map(({ contactPhone, rev }) => [contactPhone, rev])).toEqual(
    before.map(({ rev }) => ['+441632960444', Number(rev) + 1]),
  );
});

test('a booking that is changed in between is read again and computed anew, and the other change stays', async () => {
  const [booking] = await openOf('401013');
  const id = String(booking?.['id']);
  await withWorker(async () => {
    await dial({ latencyMs: 250 });
    await world.changeCompany('C-1013', { phone: '01632 960 555' });
    await until('the write on its way', async () => {
      const { rowCount } = await world.database.query('SELECT 1 FROM flights WHERE record_id = $1', [id]);
      return rowCount === 1;
    });
    // Somebody saves the booking while our write travels.
    await world.desk.query(
      `UPDATE records SET version = version + 1, doc = doc || '{"currency":"NOK"}' WHERE type = 'booking' AND id = $1`,
      [id],
    );
    const run = await world.settled('C-1013');
    expect(run.result).toBe('wrote');
    await dial(calm);
    const { outcome } = await world.run(run.id);
    expect(outcome.find(({ change }) => change.ref.id === id)).toMatchObject({ state: 'written', plan: 2 });
  });
  expect(await world.booking(id)).toMatchObject({
    currency: 'NOK',
    contactPhone: '+441632960555',
    rev: Number(booking?.['rev']) + 2,
  });
});

test('a worker killed in the middle of its writes loses nothing and writes nothing twice', async () => {
  const { company, party } = await companyWithBookings(1020);
  const before = await openOf(party);
  const people = await world.peopleOf(company);
  await dial({ latencyMs: 300 });
  const victim = await world.worker();
  await world.changeCompany(company, { phone: '01632 960 666' });
  await until('writes on their way', async () => {
    const { rowCount } = await world.database.query('SELECT 1 FROM flights');
    return rowCount !== null && rowCount > 0;
  });
  // The request is out: the stand-in will carry it through, and nobody notes the answer.
  await new Promise((done) => setTimeout(done, 100));
  victim.kill('SIGKILL');
  await once(victim, 'exit');
  await until('the stand-in to carry it through', async () => {
    const after = await openOf(party);
    return after.every(({ contactPhone }) => contactPhone === '+441632960666');
  });
  await dial(calm);
  const { rows } = await world.database.query<{ state: string }>(
    'SELECT DISTINCT state FROM writes JOIN flights USING (run_id, plan, seq)',
  );
  expect(rows).toEqual([{ state: 'planned' }]);

  await withWorker(async () => {
    const run = await world.settled(company);
    expect(run).toMatchObject({ result: 'wrote', writes: before.length + people.length });
  });
  const after = await openOf(party);
  expect(before.length).toBeGreaterThan(0);
  expect(after.map(({ rev }) => rev)).toEqual(before.map(({ rev }) => Number(rev) + 1));
});

test('a run that was given up can be tried again by hand', async () => {
  await withWorker(async () => {
    await world.ask('freight-desk', 'PUT', '/dials', { errorRate: 1 });
    await world.changeCompany('C-1017', { phone: '01632 960 321' });
    const run = await until('the first try', async () => {
      const [found] = await world.runs('search=C-1017');
      return found && found.attempts > 0 && found;
    });
    await world.database.query(`UPDATE inbox SET state = 'failed' WHERE id = $1`, [run.id]);
    await dial(calm);
    expect((await world.api('POST', `/runs/${run.id}/retry`)).status).toBe(202);
    expect(await world.settled('C-1017')).toMatchObject({ result: 'wrote' });
  });
});

test('a long run that is stopped ends after the writes on their way, and is taken up again for the rest', async () => {
  const party = '401024';
  const many = 700;
  await world.desk.query(
    `INSERT INTO records (type, id, version, doc, updated_at)
     SELECT 'booking', 'BS' || n, 1, jsonb_build_object('partyId', $1::text, 'title', 'Slate ' || n, 'status', 'open',
       'destinationPort', 'QSNOR', 'tariffZone', 'N1'), now() FROM generate_series(10001, 10000 + $2::integer) AS n`,
    [party, many],
  );
  const written = async () => {
    const { rowCount } = await world.desk.query(
      `SELECT 1 FROM records WHERE type = 'booking' AND id LIKE 'BS%' AND doc->>'contactPhone' = '+441632960888'`,
    );
    return rowCount;
  };
  await withWorker(async () => {
    await dial({ latencyMs: 400 });
    await world.changeCompany('C-1024', { phone: '01632 960 888' });
    const [run] = await until('the first writes', async () => {
      const runs = await world.runs('search=C-1024&state=waiting');
      return runs[0] && (await world.run(runs[0].id)).progress?.written ? runs : undefined;
    });
    const id = String(run?.id);
    expect((await world.api('POST', `/runs/${id}/stop`)).status).toBe(202);
    await dial(calm);
    const stopped = await world.settled('C-1024');
    expect(stopped).toMatchObject({ id, state: 'failed', result: 'partly failed' });
    const some = await written();
    expect(some).toBeLessThan(many);
    expect(stopped.because).toMatch(/^admin stopped it: \d+ records are written, \d+ not\.$/);
    expect((await world.api('POST', `/runs/${id}/stop`)).status).toBe(409);

    await world.api('POST', `/runs/${id}/retry`);
    const done = await until('the rest', async () => {
      const { state, result } = await world.run(id);
      return state === 'done' && result;
    });
    expect(done).toBe('wrote');
  });
  expect(await written()).toBe(many);
});

test('a run that waits for a system is stopped at once, without the system', async () => {
  await withWorker(async () => {
    await dial({ outage: true });
    await world.changeCompany('C-1025', { phone: '01632 960 889' });
    const waiting = await until('the first try', async () =>
      (await world.runs('search=C-1025')).find(({ state, attempts }) => state === 'waiting' && attempts > 0),
    );
    expect((await world.api('POST', `/runs/${waiting.id}/stop`)).status).toBe(202);
    const stopped = await world.settled('C-1025');
    await dial(calm);
    expect(stopped).toMatchObject({
      id: waiting.id,
      state: 'failed',
      result: 'failed',
      because: 'admin stopped it: 0 records are written, 0 not.',
    });
  });
});
