import fc from 'fast-check';
import { catalog, compiled, find, line, rule, stored, surroundings, write } from '../engine/testHarbour';
import { compileRule } from '../engine/compileRule';
import { writePolicies } from '../engine/actions/mappingLine';
import { runEvent } from '../engine/run';
import type { RuleBody } from '../engine/rule';
import type { Existing } from '../model/event';
import type { Json } from '../model/json';
import type { StoredRecord } from '../model/record';
import { MemoryWorkspace } from '../workspace/memory';
import { existingEvent, whyNotExisting } from './existing';
import { judge, sameJudged, type Judged } from './judge';
import { atSight } from './atSight';

const company = (id: string, fields: StoredRecord['record'] = {}) => stored('company', id, fields);
const person = (id: string, fields: StoredRecord['record'] = {}) => stored('person', id, fields);
const toPeople = (...lines: Parameters<typeof write>[1][]) =>
  rule([write('person', ...lines)], { finds: [find('person', 'company', 'id')] });

async function look(
  body: RuleBody,
  records: readonly StoredRecord[],
  {
    existing = 'as its lines say',
    workspace = new MemoryWorkspace(catalog, records),
    writes = false,
  }: {
    existing?: Existing;
    workspace?: MemoryWorkspace;
    /** What would be written is. */
    writes?: boolean;
  } = {},
) {
  const rules = compiled([body]);
  const [one] = rules;
  if (!one) throw new Error('no rule');
  const judged: Record<string, Judged> = {};
  for (const { ref: at } of records) {
    if (at.recordType !== body.trigger.recordType) continue;
    const now = await workspace.get(at);
    if (!now) continue;
    const event = existingEvent(one, now, { id: 'look', time: '2026-03-09T09:00:00Z', existing });
    const { report } = await runEvent(event, { catalog, rules, workspace, waits: true });
    judged[at.id] = judge(report);
    if (writes) await workspace.apply(report.writes);
  }
  return judged;
}

test('every record that exists is told apart: right, would change, cannot be computed, guard, none reached', async () => {
  const body = { ...toPeople(line('note', 'LEFT(name, size)')), guard: 'status <> "closed"' };
  const judged = await look(body, [
    company('C1', { name: 'Skerry', size: 3, status: 'open' }),
    person('P1', { company: 'C1', note: 'Ske' }),
    company('C2', { name: 'Quarry', size: 2, status: 'open' }),
    person('P2', { company: 'C2', note: 'old' }),
    company('C3', { name: 'Salt', size: -1, status: 'open' }),
    person('P3', { company: 'C3' }),
    company('C4', { name: 'Tarn', size: 1, status: 'closed' }),
    company('C5', { name: 'Mill', size: 1, status: 'open' }),
  ]);
  expect(judged).toEqual({
    C1: { standing: 'right', because: '', differences: [] },
    C2: {
      standing: 'changes',
      because: '',
      differences: [{ key: 'book/person/P2', deed: 'edit', path: 'note', before: 'old', after: 'Qu' }],
    },
    C3: { standing: 'cannot', because: expect.stringMatching(/^1 line failed/), differences: [] },
    C4: { standing: 'guard', because: 'The guard does not hold: status <> "closed"', differences: [] },
    C5: { standing: 'none', because: expect.any(String), differences: [] },
  });
});

test('with “only blanks” what a target holds stays, whatever its line says', async () => {
  const body = toPeople(line('note', 'name'), line('status', 'status'));
  const records = [
    company('C1', { name: 'Skerry', status: 'open' }),
    person('P1', { company: 'C1', note: 'kept' }),
  ];
  const paths = ({ C1 }: Record<string, Judged>) => C1?.differences.map(({ path }) => path);
  expect(paths(await look(body, records))).toEqual(['note', 'status']);
  expect(paths(await look(body, records, { existing: 'only blanks' }))).toEqual(['status']);
});

test('nothing waits, everything counts as changed, and of a change of value only what it ends in is asked', async () => {
  const waiting = toPeople(line('note', 'IF(CHANGED(name), name, "")'));
  const { trigger } = waiting;
  const turns = [{ field: 'status', from: 'open', to: 'closed' }];
  const body = { ...waiting, trigger: { ...trigger, wait: 60, watched: ['name', 'status'], turns } };
  const records = [company('C1', { name: 'Skerry', status: 'closed' }), person('P1', { company: 'C1' })];
  expect((await look(body, records))['C1']?.differences).toMatchObject([{ path: 'note', after: 'Skerry' }]);
  const narrow = { ...body, trigger: { ...body.trigger, watched: ['status'] } };
  const open = [company('C1', { name: 'Skerry', status: 'open' }), person('P1', { company: 'C1' })];
  expect((await look(narrow, open))['C1']?.standing).toBe('guard');
  expect(
    (await look({ ...narrow, guard: 'status = "closed"', becomesTrue: true }, records))['C1']?.standing,
  ).toBe('right');
});

const why = (body: RuleBody) => {
  const [one] = compiled([body]);
  return one && whyNotExisting(one);
};

test('a rule that says nothing of records that exist is refused, with the reason', () => {
  const fine = toPeople(line('note', 'name'));
  expect(why(fine)).toBeUndefined();
  expect(why({ ...fine, trigger: { ...fine.trigger, kinds: ['deleted'] } })).toBe(
    '“rule” starts only when its record is deleted; a record that exists is not that.',
  );
  expect(why({ ...fine, guard: 'before.status <> status' })).toBe(
    'The guard reads before.status, and of records that exist nobody knows how they were before: before.status <> status',
  );
  const input = { name: 'how', label: 'How', type: 'text' as const };
  const asked = { ...fine, trigger: { ...fine.trigger, kinds: ['requested' as const], inputs: [input] } };
  expect(why(asked)).toContain('asks a person something');
  expect(why({ ...asked, trigger: { ...asked.trigger, inputs: [] } })).toBeUndefined();
});

test('the same look is known for the same, in whatever order members are kept', () => {
  const judged = (before: Json): Judged => ({
    standing: 'changes',
    because: '',
    differences: [{ key: 'k', deed: 'edit', path: 'p', before, after: null }],
  });
  expect(sameJudged(judged({ a: 1, b: 2 }), judged({ b: 2, a: 1 }))).toBe(true);
  expect(sameJudged(judged({ a: 1, b: 2 }), judged({ a: 1, b: 3 }))).toBe(false);
});

test('law: what is written once is right when it is looked at again, and only blanks writes no more than the lines', async () => {
  const formula = fc.constantFrom('name', 'UPPER(name)', '"x"', 'status', '""', 'LEFT(name & status, 3)');
  const policy = fc.constantFrom('always' as const, 'target blank' as const, 'value present' as const);
  const lines = fc.uniqueArray(
    fc.record({ field: fc.constantFrom('note', 'status', 'name'), formula, policy }),
    {
      selector: ({ field }) => field,
      minLength: 1,
    },
  );
  const words = fc.constantFrom('', 'a', 'Skerry', 'open');
  const records = fc
    .array(fc.record({ name: words, status: words, note: words }), { minLength: 1, maxLength: 5 })
    .map((all) =>
      all.flatMap(({ name, status, note }, at) => [
        company(`C${at}`, { name, status }),
        person(`P${at}`, { company: `C${at}`, note, name: note }),
      ]),
    );
  await fc.assert(
    fc.asyncProperty(lines, records, fc.boolean(), async (of, all, blanks) => {
      const body = toPeople(...of);
      const existing: Existing = blanks ? 'only blanks' : 'as its lines say';
      const workspace = new MemoryWorkspace(catalog, all);
      const whole = await look(body, all);
      const first = await look(body, all, { existing, workspace, writes: true });
      for (const [id, { differences }] of Object.entries(first)) {
        const wanted = whole[id]?.differences.map(({ path }) => path) ?? [];
        for (const { path, before } of differences) {
          expect(wanted).toContain(path);
          if (blanks) expect(before ?? '').toBe('');
        }
      }
      const again = await look(body, all, { existing, workspace });
      expect(Object.values(again).flatMap(({ differences }) => differences)).toEqual([]);
    }),
    { numRuns: 150 },
  );
});

test('a rule with a mistake is not looked through', () => {
  expect(compileRule({ ...toPeople(line('note', 'nme')), id: 'r', version: 0 }, surroundings).ok).toBe(false);
});

describe('how a record stands at sight', () => {
  const lookings = (['as its lines say', 'only blanks'] as const).map((existing) => ({
    id: 'look',
    time: '2026-03-09T09:00:00Z',
    existing,
  }));

  test('law: what the lines alone tell is what the engine tells, whatever other rules run, and one line that leaves all as it is they tell always', async () => {
    const words = fc.constantFrom('', ' a', 'a', 'Skerry', 'open');
    const size = fc.constantFrom<Json>(null, 0, 1, 2, 3, 2.5, '3');
    const lines = fc.array(
      fc
        .record({
          field: fc.constantFrom('status', 'code', 'name', 'size', 'domain'),
          formula: fc.constantFrom(
            'name',
            'UPPER(code)',
            'TRIM(domain)',
            '""',
            'size',
            'LEFT(name, size)',
            'status',
            'target.name',
          ),
          policy: fc.constantFrom(...writePolicies),
        })
        .map(({ field, formula, policy }) => line(field, formula, { policy })),
      { minLength: 1, maxLength: 3 },
    );
    const actions = fc.oneof({ weight: 4, arbitrary: fc.tuple(lines) }, fc.tuple(lines, lines));
    const guard = fc.constantFrom('', '', '', 'size > 0', 'status = "open"', 'LEFT(name, size) = "a"');
    // One that watches a field, one that any update starts, or none.
    const other = fc.constantFrom(undefined, undefined, undefined, ['status'], ['code'], []);
    const records = fc.array(fc.record({ name: words, code: words, status: words, domain: words, size }), {
      minLength: 1,
      maxLength: 6,
    });
    const told = { right: 0, changes: 0, reported: 0 };
    await fc.assert(
      fc.asyncProperty(
        actions,
        guard,
        other,
        fc.constantFrom(...lookings),
        records,
        async (each, only, watched, looking, all) => {
          const body = { ...rule(each.map((of) => write('record', ...of))), guard: only };
          const beside = rule([write('record', line('domain', '"seen"'))]);
          const bodies =
            watched === undefined ? [body] : [body, { ...beside, trigger: { ...beside.trigger, watched } }];
          const compile = (one: RuleBody, at: number) =>
            compileRule(
              { ...one, id: `r${at}`, version: 1 },
              { ...surroundings, rules: new Map(), endpoints: new Set() },
            );
          const rules = bodies.map(compile).flatMap((one) => (one.ok ? [one.compiled] : []));
          const [one] = rules;
          if (!one || rules.length < bodies.length) throw new Error('a rule does not compile');
          const sees = atSight(one, rules, looking);
          if (!sees) throw new Error('it looks for no other record');
          const stands = all.map((fields, at) => company(`C${at}`, fields as StoredRecord['record']));
          const workspace = new MemoryWorkspace(catalog, stands);
          for (const stored of stands) {
            const { report } = await runEvent(existingEvent(one, stored, looking), {
              catalog,
              rules,
              workspace,
              waits: true,
            });
            const is = judge(report);
            const seen = sees.judge(stored);
            const reported = sees.report(stored);
            if (reported) {
              expect(reported).toEqual(report);
              told.reported++;
            }
            if (seen) {
              expect(seen).toEqual(is);
              told[seen.standing as keyof typeof told]++;
            }
            if (is.standing === 'right' && each.flat().length === 1) expect(seen).toEqual(is);
          }
        },
      ),
      { numRuns: 1000 },
    );
    expect(Math.min(told.right, told.changes, told.reported)).toBeGreaterThan(100);
  });

  test('what would change is told with the fields, and not where it starts another rule', () => {
    const body = rule([write('record', line('code', 'UPPER(name)'))]);
    const watching = rule([write('record', line('domain', 'code'))]);
    const all = compiled([body, { ...watching, trigger: { ...watching.trigger, watched: ['code'] } }]);
    const [one] = all;
    if (!one) throw new Error('no rule');
    const stored = company('C1', { name: 'Skerry', code: 'x' });
    const [looking] = lookings;
    if (!looking) throw new Error('no look');
    expect(atSight(one, [one], looking)?.judge(stored)).toEqual({
      standing: 'changes',
      because: '',
      differences: [{ key: 'book/company/C1', deed: 'edit', path: 'code', before: 'x', after: 'SKERRY' }],
    });
    expect(atSight(one, all, looking)?.judge(stored)).toBeUndefined();
  });

  test('a rule that looks elsewhere, or reads how it was, cannot be told at sight', () => {
    const [elsewhere] = compiled([toPeople(line('note', 'name'))]);
    const [becomes] = compiled([
      { ...rule([write('record', line('code', 'name'))]), guard: 'size > 0', becomesTrue: true },
    ]);
    for (const one of [elsewhere, becomes])
      for (const looking of lookings) expect(one && atSight(one, [one], looking)).toBeUndefined();
  });
});

test('a tidy rule is held beside what exists as any other, and leaves nothing to do the second time', async () => {
  const body = rule([
    {
      kind: 'tidy',
      target: 'record',
      steps: [
        { do: 'remove fields', pattern: 'old_*' },
        { do: 'clean', field: 'name', how: 'single spaces' },
        { do: 'set when absent', field: 'status', formula: '"open"' },
      ],
    },
  ]);
  const records = [
    company('C1', { name: 'Skerry  Mill', status: 'closed', old_phone: '1' }),
    company('C2', { name: 'Quarry', status: 'open' }),
    company('C3', { name: 'Tarn' }),
  ];
  const workspace = new MemoryWorkspace(catalog, records);
  const first = await look(body, records, { workspace, writes: true });
  expect(Object.values(first).map(({ standing }) => standing)).toEqual(['changes', 'right', 'changes']);
  expect(first['C1']?.differences.map(({ path, before, after }) => [path, before, after]).sort()).toEqual([
    ['name', 'Skerry  Mill', 'Skerry Mill'],
    ['old_phone', '1', null],
  ]);
  const second = await look(body, records, { workspace });
  expect(Object.values(second).map(({ standing }) => standing)).toEqual(['right', 'right', 'right']);
});

test('of a file that would be written it is told how many rows it would have, and one for all is no matter of a record', async () => {
  const file: RuleBody = rule(
    [
      {
        kind: 'file',
        name: '"people of " & name',
        format: 'csv',
        to: { kind: 'download' },
        columns: [{ name: 'Person', formula: 'person.name' }],
      },
    ],
    { finds: [find('person', 'company', 'id')] },
  );
  const records = [
    company('C1', { name: 'Skerry' }),
    person('P1', { name: 'Runa', company: 'C1' }),
    person('P2', { name: 'Odd', company: 'C1' }),
  ];
  expect((await look(file, records))['C1']).toMatchObject({
    standing: 'changes',
    differences: [
      {
        deed: 'message',
        path: 'file',
        after: { name: 'people of Skerry.csv', columns: ['Person'], rows: 2 },
      },
    ],
  });
  const { trigger } = file;
  const once = { ...file, trigger: { ...trigger, kinds: ['requested' as const], once: true as const } };
  expect(
    why({ ...once, actions: [{ kind: 'send', endpoint: 'post', type: 'told', parts: [] }], finds: [] }),
  ).toBe('“rule” is done once for all records, and for none by itself.');
});
