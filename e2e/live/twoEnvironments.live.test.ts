import { randomUUID } from 'node:crypto';
import type { ImportPlan, RuleBody, RuleView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(120_000);
let trial: World;
let real: World;
beforeAll(async () => {
  [trial, real] = [await World.start(), await World.start()];
});
afterAll(async () => {
  await trial.stop();
  await real.stop();
});

const note: RuleBody = {
  name: 'Credit terms in words',
  note: '',
  trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: ['credit_terms'] },
  guard: '',
  finds: [
    {
      alias: 'party',
      system: 'freight-desk',
      recordType: 'party',
      match: [{ field: 'customerNumber', is: 'equal', formula: 'id' }],
      none: 'stop',
      several: 'fail',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'party',
      lines: [
        { field: 'deskNote', formula: 'TABLE("Terms in words", credit_terms, "words")', policy: 'always' },
      ],
    },
  ],
};
const table = {
  name: 'Terms in words',
  columns: [
    { name: 'terms', label: 'Terms', type: 'text', key: true },
    { name: 'words', label: 'Words', type: 'text', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
};
const noteOf = async (world: World) =>
  (
    await world.ask<Record<string, unknown>>(
      'freight-desk',
      'GET',
      '/v2/parties?where=customerNumber:eq:C-1007&pageSize=1',
    )
  ).body as { data?: { deskNote?: string }[] };

test('what was made in one environment runs in another, whose systems are elsewhere, and comes to the same a second time', async () => {
  expect((await trial.api('POST', '/tables', table)).status).toBe(201);
  const rows = [
    { id: null, before: null, after: ['prepaid', 'pays before'] },
    { id: null, before: null, after: ['net_30', 'pays within thirty days'] },
  ];
  await trial.api('POST', `/tables/${encodeURIComponent(table.name)}/rows`, {
    what: 'First rows',
    changes: rows,
  });
  const { body: made } = await trial.api<RuleView>('POST', '/rules', note);
  const published = await trial.api(
    'POST',
    `/rules/${made.id}/publish`,
    {},
    {
      'if-match': `"${made.revision}"`,
    },
  );
  expect(published.status).toBe(200);
  const { body: bundle } = await trial.api<object>('POST', '/bundles', {
    rules: [made.id],
    form: 'file',
    samples: false,
  });
  const text = JSON.stringify(bundle);
  // Where systems are and how one signs in stays in each environment.
  expect(text).not.toMatch(/baseUrl|127\.0\.0\.1|Bearer [A-Za-z0-9]/);

  const files = [{ name: 'trial.json', text }];
  const { body: plan } = await real.api<ImportPlan>('POST', '/imports/plan', { files, running: true });
  expect(plan.problems).toEqual([]);
  expect(plan.items.map(({ kind, name, state }) => `${kind} ${name}: ${state}`)).toEqual([
    'table Terms in words: new',
    'rule Credit terms in words: new',
  ]);
  const done = await real.api('POST', '/imports', { files, running: true, stamp: plan.stamp });
  expect(done.status).toBe(201);

  await real.changeCompany('C-1007', { credit_terms: 'prepaid' });
  await real.changeCompany('C-1007', { credit_terms: 'net_30' });
  await until('the party of the real environment says so', async () => {
    return (await noteOf(real)).data?.[0]?.deskNote === 'pays within thirty days';
  });
  // In the other one nothing happened.
  expect((await noteOf(trial)).data?.[0]?.deskNote).not.toBe('pays within thirty days');

  const { body: again } = await real.api<ImportPlan>('POST', '/imports/plan', { files, running: true });
  expect(again.items.map(({ state, taken }) => `${state} ${String(taken)}`)).toEqual([
    'same ours',
    'same ours',
  ]);
  const versions = async () =>
    (await real.api<{ versions: unknown[] }>('GET', `/rules/${made.id}/versions`)).body.versions.length;
  expect(await versions()).toBe(1);
  await real.api('POST', '/imports', { files, running: true, stamp: again.stamp });
  expect(await versions()).toBe(1);
  const { body: back } = await real.api<object>('POST', '/bundles', {
    rules: [made.id],
    form: 'file',
    samples: false,
  });
  expect(JSON.stringify(back)).toBe(text);
});

test('an import that is refused changes nothing, and a token of another day is not taken', async () => {
  const files = [
    {
      name: 'a.json',
      text: JSON.stringify({ vastKnot: 2, rules: [{ id: randomUUID(), published: true, rule: note }] }),
    },
  ];
  const before = (await real.api<RuleView[]>('GET', '/rules')).body.length;
  const refused = await real.api<{ detail: string }>('POST', '/imports', { files, stamp: '0'.repeat(64) });
  expect(refused.status).toBe(412);
  expect((await real.api<RuleView[]>('GET', '/rules')).body).toHaveLength(before);
});
