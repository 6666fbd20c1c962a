import { Gates } from '../../server/src/connector/gates';
import type { RuleView } from '@vast-knot/core';
import { outboundAgent } from '../../server/src/connector/outbound';
import { Seal } from '../../server/src/db/seal';
import { RegistryCache } from '../../server/src/registry/registry';
import { tick } from '../../server/src/schedule/tick';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
let registry: RegistryCache;
let agent: ReturnType<typeof outboundAgent>;
beforeAll(async () => {
  world = await World.start();
  const allowed = (world.environment['ALLOWED_OUTBOUND'] ?? '').split(',');
  agent = outboundAgent(allowed);
  registry = new RegistryCache(world.database, new Seal(world.environment['SEAL_KEY'] ?? ''), {
    dispatcher: agent,
    gates: new Gates(),
    allowedOutbound: allowed,
  });
});
afterAll(async () => {
  await agent.close();
  await world.stop();
});

test('at its time a scheduled rule goes through all records that its guard lets pass, once', async () => {
  const { body: rule } = await world.api<RuleView>('POST', '/rules', {
    name: 'Officers of rank M are masters',
    note: '',
    trigger: {
      system: 'fleet-log',
      recordType: 'officer',
      kinds: ['scheduled'],
      watched: [],
      schedule: { at: '06:00', zone: 'Europe/London', days: [1] },
    },
    guard: `'Rank Code' = "M"`,
    finds: [],
    actions: [
      {
        kind: 'write',
        target: 'record',
        lines: [{ field: 'Officer Name', formula: `"Master " & 'Officer Name'`, policy: 'always' }],
      },
    ],
  });
  const published = await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
    'if-match': `"${rule.revision}"`,
  });
  expect(published.status).toBe(200);

  // A Monday in winter, when the clock of London is that of UTC.
  const due = '2026-12-07T06:00:00.000Z';
  const at = async (minute: string) => tick(world.database, await registry.get(), minute);
  expect(await at('2026-12-07T06:01:00.000Z')).toBe(0);
  expect(await at('2026-12-08T06:00:00.000Z')).toBe(0);
  expect(await at(due)).toBe(4);
  expect(await at(due)).toBe(0);

  const officers = await until('the masters', async () => {
    const { Rows } = (
      await world.ask<{ Rows: Record<string, string>[] }>('fleet-log', 'GET', '/fleet/Officers')
    ).body;
    return Rows.filter((officer) => officer['Officer Name']?.startsWith('Master ')).length === 4 && Rows;
  });
  for (const officer of officers) {
    expect(officer['Officer Name']?.startsWith('Master ')).toBe(officer['Rank Code'] === 'M');
  }
  await until('the ends of the four runs', async () => {
    const runs = (await world.runs('system=fleet-log')).filter(({ kind }) => kind === 'scheduled');
    return runs.length === 4 && runs.every(({ result }) => result === 'wrote');
  });
});
