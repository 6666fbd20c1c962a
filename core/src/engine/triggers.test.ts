import type { Trigger } from '../model/trigger';
import type { RuleBody } from './rule';
import { run, rule, ref, stored, updated, write, line, written, compiled } from './testHarbour';
import { wantsReview } from './runRule';

const starts = (more: Partial<Trigger>): Partial<RuleBody> => ({
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [], ...more },
});
const noted = (more: Partial<RuleBody>): RuleBody => rule([write('record', line('code', '"done"'))], more);
const outcome = async (event: Parameters<typeof run>[0], body: RuleBody) => {
  const { rules } = await run(event, [body]);
  return rules[0];
};

describe('which change starts a rule', () => {
  const closed = { watched: ['status'], turns: [{ field: 'status', from: 'open', to: 'closed' }] };

  test('a change from one value to another starts it, another change of the field does not', async () => {
    const body = noted(starts(closed));
    expect(await outcome(updated({ status: 'closed' }, { status: 'open' }), body)).toMatchObject({
      verdict: 'writes',
    });
    expect(await outcome(updated({ status: 'closed' }, { status: 'held' }), body)).toMatchObject({
      verdict: 'not watched',
      because: 'status changed from held to closed; the rule wants status from open to closed.',
    });
  });

  test('either side may be left open', async () => {
    const to = noted(starts({ watched: ['status'], turns: [{ field: 'status', to: 'closed' }] }));
    expect(await outcome(updated({ status: 'closed' }, { status: 'anything' }), to)).toMatchObject({
      verdict: 'writes',
    });
    const from = noted(starts({ watched: ['status'], turns: [{ field: 'status', from: '' }] }));
    expect(await outcome(updated({ status: 'open' }, { status: null }), from)).toMatchObject({
      verdict: 'writes',
    });
    expect(await outcome(updated({ status: 'open' }, { status: 'held' }), from)).toMatchObject({
      because: 'status changed from held to open; the rule wants status from blank.',
    });
  });

  test('a turn narrows its own field only; other watched fields count as they did', async () => {
    const body = noted(starts({ ...closed, watched: ['status', 'name'] }));
    const event = updated({ status: 'held', name: 'New' }, { status: 'open', name: 'Old' });
    expect(await outcome(event, body)).toMatchObject({ verdict: 'writes' });
  });

  test('numbers are compared as numbers', async () => {
    const body = noted(starts({ watched: ['size'], turns: [{ field: 'size', to: '5' }] }));
    expect(await outcome(updated({ size: 5 }, { size: 4 }), body)).toMatchObject({ verdict: 'writes' });
    expect(await outcome(updated({ size: 6 }, { size: 5 }), body)).toMatchObject({ verdict: 'not watched' });
  });

  test.each(['requested', 'scheduled', 'file row', 'form answer'] as const)(
    'a rule for what is %s is not started by an update, and says so',
    async (kind) => {
      const event = updated({ name: 'A' }, { name: 'B' });
      const schedule = { at: '06:00', zone: 'Europe/London', days: [] };
      const body = noted(starts({ kinds: [kind], schedule }));
      expect(await outcome(event, body)).toMatchObject({ verdict: 'not this kind' });
      expect(await outcome({ ...event, kind, changed: [] }, body)).toMatchObject({ verdict: 'writes' });
    },
  );

  test('what a person requested runs the one rule it was requested for, with what was asked', async () => {
    const inputs = [{ name: 'date', label: 'Date', type: 'date' as const }];
    const asks = rule([write('record', line('since', 'EDATE(input.date, 1)'))], {
      name: 'asks',
      ...starts({ kinds: ['requested'], inputs }),
    });
    const other = rule([write('record', line('status', '"other"'))], starts({ kinds: ['requested'] }));
    const event = {
      ...updated({ name: 'A' }, {}),
      kind: 'requested' as const,
      rule: 'r0',
      input: { date: '2026-01-31' },
    };
    const { rules, writes } = await run(event, [asks, other]);
    expect(rules.map(({ ruleName }) => ruleName)).toEqual(['asks']);
    expect(written(writes)).toEqual(['company/C1 since="2026-02-28"']);
  });
});

describe('only when the guard becomes true', () => {
  const big = noted({ guard: 'size >= 10', becomesTrue: true });

  test('it goes on when the guard holds now and did not before', async () => {
    const step = (await outcome(updated({ size: 12 }, { size: 9 }), big))?.steps[0];
    expect(step).toMatchObject({ kind: 'guard', holds: true, before: { holds: false } });
    expect(await outcome(updated({ size: 12 }, { size: 9 }), big)).toMatchObject({ verdict: 'writes' });
  });

  test('it stops when the guard held before too, and says so', async () => {
    expect(await outcome(updated({ size: 12 }, { size: 11 }), big)).toMatchObject({
      verdict: 'guard',
      because: 'The guard holds, and did before: size >= 10',
    });
  });

  test('each time means each time', async () => {
    const each = noted({ guard: 'size >= 10' });
    expect(await outcome(updated({ size: 12 }, { size: 11 }), each)).toMatchObject({ verdict: 'writes' });
  });

  test('a record that was just created had no guard that held', async () => {
    const { before: _before, ...event } = updated({ size: 12 }, {});
    const body = noted({ guard: 'size >= 10', becomesTrue: true, ...starts({ kinds: ['created'] }) });
    expect(await outcome({ ...event, kind: 'created' }, body)).toMatchObject({ verdict: 'writes' });
  });

  test('a guard that was an error before has become true', async () => {
    const body = noted({ guard: 'VALUE(code) > 1', becomesTrue: true });
    const event = updated({ code: '2' }, { code: 'x' });
    expect(await outcome(event, body)).toMatchObject({ verdict: 'writes' });
  });
});

test('what would start a paused rule is left for later, with the change as it is; others go on', async () => {
  const event = updated({ name: 'B' }, { name: 'A' });
  const { rules, waiting } = await run(event, [noted({}), noted({ guard: 'ISBLANK(name)' }), noted({})], [], {
    paused: new Set(['r0', 'r1']),
  });
  const first = rules.filter(({ depth }) => depth === 0);
  expect(first.map(({ verdict }) => verdict)).toEqual(['waits', 'waits', 'writes']);
  expect(waiting.slice(0, 2)).toEqual([
    { ruleId: 'r0', event },
    { ruleId: 'r1', event },
  ]);
  // What the third wrote would start them as well.
  expect(waiting.slice(2).map(({ ruleId, event: { changed } }) => [ruleId, changed])).toEqual([
    ['r0', ['code']],
    ['r1', ['code']],
  ]);
  const other = updated({ size: 1 }, { size: 2 });
  const watching = noted(starts({ watched: ['name'] }));
  expect((await run(other, [watching], [], { paused: new Set(['r0']) })).waiting).toEqual([]);
});

describe('a rule that waits', () => {
  const waits = noted(starts({ wait: 60 }));
  const event = updated({ name: 'B' }, { name: 'A' });

  test('live it is left for later, with the change that it is to see', async () => {
    const { rules, waiting, writes } = await run(event, [waits], [], { waits: true });
    expect(rules[0]).toMatchObject({
      verdict: 'waits',
      because: 'Waits a minute for further changes of the record.',
    });
    expect(waiting).toEqual([{ ruleId: 'r0', seconds: 60, event }]);
    expect(writes).toEqual([]);
  });

  test('the folded change runs it, and so does a sample on the bench', async () => {
    expect((await run({ ...event, folded: 3 }, [waits], [], { waits: true })).rules[0]).toMatchObject({
      verdict: 'writes',
    });
    expect((await run(event, [waits])).rules[0]).toMatchObject({ verdict: 'writes' });
  });

  test('a change that does not start it is not waited for', async () => {
    const body = noted(starts({ wait: 60, watched: ['status'] }));
    expect((await run(event, [body], [], { waits: true })).waiting).toEqual([]);
  });
});

describe('several rules on one trigger', () => {
  const upper = rule([write('record', line('name', 'UPPER(name)'))], {
    name: 'upper',
    ...starts({ watched: ['domain'] }),
  });
  const coded = rule([write('record', line('code', 'LEFT(name, 2)'))], {
    name: 'coded',
    ...starts({ watched: ['domain'] }),
  });
  const event = updated({ name: 'ferry', domain: 'b' }, { domain: 'a' });

  test('each sees what those before it wrote', async () => {
    expect(written((await run(event, [upper, coded])).writes)).toEqual(['company/C1 name="FERRY" code="FE"']);
  });

  test('in the other order the first sees the record as it came', async () => {
    expect(written((await run(event, [coded, upper])).writes)).toEqual(['company/C1 name="FERRY" code="fe"']);
  });

  test('writes of several rules to one record are one write, which names them', async () => {
    const { writes } = await run(event, [upper, coded]);
    expect(writes.map(({ rules }) => rules.map(({ name }) => name))).toEqual([['upper', 'coded']]);
  });
});

test('two rules that undo each other are stopped and named', async () => {
  const on = rule([write('record', line('status', '"on"'))], {
    name: 'on',
    ...starts({ watched: ['status'] }),
    guard: 'status = "off"',
  });
  const off = rule([write('record', line('status', '"off"'))], {
    name: 'off',
    ...starts({ watched: ['status'] }),
    guard: 'status = "on"',
  });
  const { problems } = await run(updated({ status: 'on' }, { status: 'new' }), [on, off]);
  expect(problems).toHaveLength(1);
  expect(problems[0]).toContain('on');
  expect(problems[0]).toContain('off');
});

test('a pair of rules in both directions comes to rest', async () => {
  const down = rule([write('person', line('note', 'code'))], {
    name: 'down',
    finds: [
      {
        alias: 'person',
        system: 'book',
        recordType: 'person',
        match: [{ field: 'company', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'each',
      },
    ],
  });
  const up = rule([write('company', line('code', 'note'))], {
    name: 'up',
    trigger: { system: 'book', recordType: 'person', kinds: ['updated'], watched: [] },
    finds: [
      {
        alias: 'company',
        system: 'book',
        recordType: 'company',
        match: [{ field: 'id', is: 'equal', formula: 'company' }],
        none: 'stop',
        several: 'fail',
      },
    ],
  });
  const { problems, writes, rules } = await run(
    updated({ code: 'new' }, { code: 'old' }),
    [down, up],
    [stored('person', 'P1', { company: 'C1', note: 'old' })],
  );
  expect(problems).toEqual([]);
  expect(written(writes)).toEqual(['person/P1 note="new"']);
  expect(rules.at(-1)).toMatchObject({
    ruleName: 'up',
    verdict: 'nothing to write',
    ref: ref('person', 'P1'),
  });
});

test('only a rule with a reviewed creation wants a review', () => {
  const copy = {
    kind: 'copy' as const,
    of: 'record',
    alias: 'next',
    system: 'book',
    recordType: 'company',
    lines: [],
  };
  const requested = starts({ kinds: ['requested'] });
  const wants = (review: boolean) =>
    compiled([rule([review ? { ...copy, review } : copy], requested)]).map(wantsReview);
  expect(wants(true)).toEqual([true]);
  expect(wants(false)).toEqual([false]);
});
