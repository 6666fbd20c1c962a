/** What the rule wrote is read by the registry package `marcjs`, a second reader of ISO 2709. */
import { Marc, Record } from 'marcjs';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const tidy: RuleBody = {
  name: 'Local fields leave the record of the chandler',
  note: '',
  trigger: { system: 'freight-desk', recordType: 'party', kinds: ['updated'], watched: ['deskNote'] },
  guard: '',
  finds: [],
  actions: [
    {
      kind: 'tidy',
      target: 'record',
      steps: [
        { do: 'tidy tagged', field: 'deskNote', step: { kind: 'remove', what: '59*', only: '' } },
        {
          do: 'tidy tagged',
          field: 'deskNote',
          step: { kind: 'put', at: '007/1', characters: 'o', only: 'PLACE("001") = "SC-1"' },
        },
      ],
    },
  ],
};
function text(number: string): string {
  const record = new Record();
  record.leader = '00000nam a2200000   4500';
  record.append(['001', number], ['007', 'kb'], ['590', '  ', 'a', 'Hylle å']);
  return Marc.format(record, 'Iso2709');
}

test('a tagged record that a system holds is tidied when it is saved, and comes to rest', async () => {
  const { body: rule } = await world.api<RuleView>('POST', '/rules', tidy);
  const published = await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
    'if-match': `"${rule.revision}"`,
  });
  expect(published.status).toBe(200);
  const { status } = await world.ask('freight-desk', 'PATCH', '/v2/parties/401020', {
    deskNote: text('SC-1'),
  });
  expect(status).toBe(200);
  const run = await world.settled('401020');
  expect([run.result, run.because]).toEqual(['wrote', '1 record written.']);
  const { body } = await world.ask<{ deskNote: string }>('freight-desk', 'GET', '/v2/parties/401020');
  expect(Marc.parse(Buffer.from(body.deskNote, 'utf8'), 'Iso2709').fields).toEqual([
    ['001', 'SC-1'],
    ['007', 'ko'],
  ]);
  const own = await world.ownWrite('401020');
  expect(own.result).toBe('own write');
});

test('a text that is no such record fails the run with the reason, and stays as it is', async () => {
  await world.ask('freight-desk', 'PATCH', '/v2/parties/401021', { deskNote: 'Ring before ten.' });
  const run = await world.settled('401021');
  expect(run.result).toBe('failed');
  expect(run.because).toContain('It holds no tagged record: It has 16 bytes; a record has 26 at least.');
  const { body } = await world.ask<{ deskNote: string }>('freight-desk', 'GET', '/v2/parties/401021');
  expect(body.deskNote).toBe('Ring before ten.');
});
