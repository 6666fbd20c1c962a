import type { Action } from '.';
import { company, line, rule, run, written } from '../testHarbour';

describe('create', () => {
  const job = (more: Partial<Extract<Action, { kind: 'create' }>> = {}): Action => ({
    kind: 'create',
    alias: 'job',
    system: 'desk',
    recordType: 'job',
    lines: [line('name', '"Berth "& item')],
    ...more,
  });

  test('one for each element of a list', async () => {
    const body = rule([job({ each: 'SPLIT(code, "-")' })]);
    expect(written((await run(company, [body])).writes)).toEqual([
      'create job name="Berth AB"',
      'create job name="Berth 12"',
    ]);
  });

  test('a stepped date: several in one sitting', async () => {
    const lines = [line('name', '"Call"'), line('day', 'DATE(2026, 3, 1 + 7 * item)')];
    const body = rule([job({ each: 'EACH(SPLIT("1 2 3", " "), VALUE(item))', lines })]);
    expect(written((await run(company, [body])).writes)).toEqual([
      'create job name="Call" day="2026-03-08"',
      'create job name="Call" day="2026-03-15"',
      'create job name="Call" day="2026-03-22"',
    ]);
  });

  test('an empty list creates nothing', async () => {
    expect((await run(company, [rule([job({ each: 'SPLIT("", ",")' })])])).writes).toEqual([]);
  });

  test('one that fails is noted and its siblings are created', async () => {
    const lines = [line('name', 'IF(item = "12", "", item)')];
    const { writes, rules } = await run(company, [rule([job({ each: 'SPLIT(code, "-")', lines })])]);
    expect(written(writes)).toEqual(['create job name="AB"']);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('“name” is required'),
    });
  });

  test('what a person typed on review takes the place of what was computed', async () => {
    const event = {
      ...company,
      kind: 'requested' as const,
      rule: 'r0',
      reviewed: [
        { action: 0, at: 0, values: { name: 'Berth North', owner: 'Runa' } },
        { action: 0, at: 1, values: {}, leftOut: true as const },
      ],
    };
    const body = rule([job({ each: 'SPLIT(code, "-")', review: true })], {
      trigger: { system: 'book', recordType: 'company', kinds: ['requested'], watched: [] },
    });
    const { writes, rules } = await run(event, [body]);
    expect(written(writes)).toEqual(['create job name="Berth North" owner="Runa"']);
    const step = rules[0]?.steps.find(({ kind }) => kind === 'write');
    expect(step).toMatchObject({
      lines: [{ field: 'name', because: 'Typed on review.' }, { field: 'owner' }],
    });
  });
});

test('what a person typed on review has to fit its field, or the record is not created and says why', async () => {
  const copied: Action = {
    kind: 'create',
    alias: 'job',
    system: 'desk',
    recordType: 'job',
    lines: [line('name', '"x"')],
    review: true,
  };
  const body = rule([copied], {
    trigger: { system: 'book', recordType: 'company', kinds: ['requested'], watched: [] },
  });
  const reviewedAs = async (values: Record<string, string>) => {
    const reviewed = [{ action: 0, at: 0, values }];
    const { writes, rules } = await run({ ...company, kind: 'requested', rule: 'r0', reviewed }, [body]);
    return [written(writes), rules[0]?.because];
  };
  expect(await reviewedAs({ day: 'soon' })).toEqual([[], expect.stringContaining('day: ')]);
  expect(await reviewedAs({ nowhere: 'x' })).toEqual([
    [],
    expect.stringContaining('Job has no field “nowhere”'),
  ]);
  expect(await reviewedAs({ id: 'J9' })).toEqual([[], expect.stringContaining('“id” is read-only')]);
  expect(await reviewedAs({ name: '' })).toEqual([[], expect.stringContaining('“name” is required')]);
  expect(await reviewedAs({ day: '2026-03-09' })).toEqual([
    ['create job name="x" day="2026-03-09"'],
    'Writes 1 record.',
  ]);
});

test('of a review that leaves forms out, what was reviewed is created and nothing else', async () => {
  const each = {
    kind: 'create',
    alias: 'made',
    system: 'desk',
    recordType: 'job',
    each: 'SPLIT(code, "-")',
    review: true,
    lines: [line('name', 'item')],
  } as const;
  const body = rule([each], {
    trigger: { system: 'book', recordType: 'company', kinds: ['requested'], watched: [] },
  });
  const asked = async (reviewed: NonNullable<typeof company.reviewed>) => {
    const { writes } = await run({ ...company, kind: 'requested', rule: 'r0', reviewed }, [body]);
    return writes.length;
  };
  expect(await asked([{ action: 0, at: 1, values: {} }])).toBe(1);
  expect(await asked([])).toBe(0);
  expect(await asked([0, 1].map((at) => ({ action: 0, at, values: {} })))).toBe(2);
});
