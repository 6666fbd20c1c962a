import type { RulesBegun, RulesNow, RunDetail } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const path = '/records/customer-book/company/C-1001/rules';
const booking = 'BK70002';
const phoneOf = async () =>
  (await world.ask<{ contactPhone: string }>('freight-desk', 'GET', `/v2/bookings/${booking}`)).body
    .contactPhone;

test('the rules about a record are run on it as it is, each by itself, once for a press', async () => {
  const right = await phoneOf();
  await world.ask('freight-desk', 'PATCH', `/v2/bookings/${booking}`, { contactPhone: '+441632960599' });
  const id = crypto.randomUUID();
  const would = await world.api<RulesNow>('POST', `${path}/preview`, { id });
  expect(would.status).toBe(200);
  const phones = would.body.would.find(({ name }) => name === 'Company phone and town to open bookings');
  expect(phones?.report.writes.map(({ change }) => change.ref.id)).toContain(booking);
  // Looking writes nothing.
  expect(await phoneOf()).toBe('+441632960599');
  const begun = await world.api<RulesBegun>('POST', path, { id });
  expect(begun.status).toBe(202);
  const run = begun.body.runs.find(({ rule }) => rule === phones?.rule)?.run ?? '';
  await until(
    'the end of the run',
    async () => (await world.api<RunDetail>('GET', `/runs/${run}`)).body.state === 'done',
  );
  expect(await phoneOf()).toBe(right);
  const again = await world.api<RulesBegun>('POST', path, { id });
  expect(new Set(again.body.runs.map((each) => each.run))).toEqual(new Set([null]));
});

test('a paused rule is left out with the reason, and what is not there is not run', async () => {
  const { body } = await world.api<RulesNow>('POST', `${path}/preview`, { id: crypto.randomUUID() });
  const [first] = body.would;
  await world.api('POST', `/rules/${first?.rule}/pause`, { because: 'Looked at.' });
  await until('the pause', async () => {
    const now = await world.api<RulesNow>('POST', `${path}/preview`, { id: crypto.randomUUID() });
    return now.body.left.some(({ rule, because }) => rule === first?.rule && because.endsWith('is paused.'));
  });
  await world.api('POST', `/rules/${first?.rule}/go-on`, {});
  const gone = path.replace('C-1001', 'C-0000');
  expect((await world.api('POST', gone, { id: crypto.randomUUID() })).status).toBe(404);
  expect((await world.api('POST', path, { id: 'mine' })).status).toBe(422);
});
