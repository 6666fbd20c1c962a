import fc from 'fast-check';
import type { Action } from '../engine/actions';
import type { Rule, RuleBody } from '../engine/rule';
import type { Sample } from '../model/sample';
import { catalog, find, line, rule, stored, surroundings, updated, write } from '../engine/testHarbour';
import { expectAll, expectField } from './accept';
import { compareOutcome, differencesBetween } from './compareOutcome';
import { expectedSchema, type Expectation, type Expected } from '../model/expected';
import { isAsExpected } from './expectation';
import { ensemble, replaySample } from './replay';

const event = updated({ name: 'Skerry Line', status: 'open', size: 3 }, { status: 'new' });
const records = [
  { ref: event.ref, record: event.record },
  stored('person', 'P1', { name: 'Runa', company: 'C1', note: null }),
  stored('person', 'P2', { name: 'Bram', company: 'C1', note: null }),
];
const sample = (more: Partial<Sample> = {}): Sample => ({
  id: 's1',
  name: 'opened',
  note: '',
  event,
  records,
  ...more,
});
const people = { finds: [find('person', 'company', 'id')] };
const noteOf = (formula: string): RuleBody => rule([write('person', line('note', formula))], people);
const create = (alias: string, name: string): Action => ({
  kind: 'create',
  alias,
  system: 'desk',
  recordType: 'account',
  lines: [line('name', name)],
});

async function replay(bodies: readonly RuleBody[], one: Sample = sample()) {
  const rules = bodies.map((body, at): Rule => ({ ...body, id: `r${at}`, version: 1 }));
  return replaySample(one, ensemble(rules, surroundings), surroundings);
}

/** What is not as expected, as `key path: verdict`. */
function differing({ comparison }: Awaited<ReturnType<typeof replay>>): readonly string[] {
  const { records: changed, messages } = comparison;
  return [...changed, ...messages].flatMap(({ key, verdict, fields }) => {
    const open = fields.filter((field) => field.verdict !== 'holds');
    return verdict === 'holds' ? [] : open.map(({ path, verdict: one }) => `${key} ${path}: ${one}`);
  });
}

describe('a sample', () => {
  test('with no expectation says so, and is neither right nor wrong', async () => {
    expect((await replay([noteOf('status')])).comparison).toMatchObject({
      verdict: 'nothing expected',
      differences: 0,
    });
  });

  test('holds when the outcome is accepted and comes out again', async () => {
    const { outcome } = await replay([noteOf('status')]);
    const again = await replay([noteOf('LOWER("OPEN")')], sample({ expected: expectAll(outcome) }));
    expect(again.comparison).toMatchObject({ verdict: 'holds', differences: 0 });
  });

  test('fails field by field: what differs, what is missing, what was not expected', async () => {
    const { outcome } = await replay([noteOf('status')]);
    const expected = expectAll(outcome);
    expect(differing(await replay([noteOf('name')], sample({ expected })))).toEqual([
      'book/person/P1 note: differs',
      'book/person/P2 note: differs',
    ]);
    const other = rule(
      [write('person', line('status', 'status')), write('record', line('code', '"A"'))],
      people,
    );
    expect(differing(await replay([other], sample({ expected })))).toEqual([
      'book/person/P1 status: not expected',
      'book/person/P1 note: missing',
      'book/person/P2 status: not expected',
      'book/person/P2 note: missing',
      'book/company/C1 code: not expected',
    ]);
  });

  test('in which nothing must happen fails as soon as something does', async () => {
    const expected: Expected = { records: [], messages: [], problems: [] };
    expect((await replay([], sample({ expected }))).comparison.verdict).toBe('holds');
    const { comparison } = await replay([noteOf('status')], sample({ expected }));
    expect([comparison.verdict, comparison.differences]).toEqual(['differs', 2]);
  });

  test('compares by the types of the fields: a number as text is the same number', async () => {
    const body = rule([write('record', line('size', 'size + 1'))]);
    const { outcome } = await replay([body]);
    const expected = expectField(expectAll(outcome), outcome, {
      key: 'book/company/C1',
      path: 'size',
      expectation: {
        is: 'equal',
        value: '4',
      },
    });
    expect((await replay([body], sample({ expected }))).comparison.verdict).toBe('holds');
  });

  test('names created records anew in every replay, wherever their ids are used', async () => {
    const body = rule([
      create('first', 'name'),
      create('second', 'first.name & first.id'),
      write('record', line('code', 'second.id')),
    ]);
    const { outcome } = await replay([body]);
    expect(outcome.records.map(({ key, change }) => [key, change.kind])).toEqual([
      ['desk/account/new 1', 'create'],
      ['desk/account/new 2', 'create'],
      ['book/company/C1', 'edit'],
    ]);
    expect(outcome.records[2]?.fields).toEqual([{ path: 'code', before: null, after: 'desk/account/new 2' }]);
    const elsewhere = sample({ event: { ...event, id: 'another' }, expected: expectAll(outcome) });
    expect(differing(await replay([body], elsewhere))).toEqual(['desk/account/new 2 name: differs']);
  });

  test('expects the failures that are wanted, and no others', async () => {
    const failing = rule([write('record', line('size', '1 / 0'))], { name: 'Halves' });
    const { outcome, comparison } = await replay(
      [failing],
      sample({ expected: { records: [], messages: [], problems: [] } }),
    );
    expect(comparison.problems.map(({ verdict }) => verdict)).toEqual(['not expected']);
    expect((await replay([failing], sample({ expected: expectAll(outcome) }))).comparison.verdict).toBe(
      'holds',
    );
    const gone = await replay([], sample({ expected: expectAll(outcome) }));
    expect(gone.comparison.problems).toMatchObject([{ verdict: 'missing' }]);
  });

  test('keeps a message in full, and fails when its data changes', async () => {
    const send = (formula: string): RuleBody =>
      rule([
        {
          kind: 'send',
          endpoint: 'post',
          type: 'opened',
          parts: [
            { name: 'account.code', formula },
            { name: 'name', formula: 'name' },
          ],
        },
      ]);
    const { outcome } = await replay([send('status')]);
    expect(outcome.messages).toMatchObject([
      { endpoint: 'post', type: 'opened', data: { 'account.code': 'open', name: 'Skerry Line' } },
    ]);
    const expected = expectAll(outcome);
    expect(differing(await replay([send('UPPER(status)')], sample({ expected })))).toEqual([
      'post opened book/company/C1 account.code: differs',
    ]);
    expect((await replay([], sample({ expected }))).comparison.messages).toMatchObject([
      { verdict: 'missing' },
    ]);
  });
});

describe('an expectation', () => {
  test.each<[Expectation, unknown, boolean]>([
    [{ is: 'any' }, 'x', true],
    [{ is: 'blank' }, '', true],
    [{ is: 'blank' }, 0, false],
    [{ is: 'matching', pattern: '^\\+44' }, '+441632960001', true],
    [{ is: 'matching', pattern: '^\\+44' }, '01632', false],
    [{ is: 'matching', pattern: '(' }, '(', false],
    [{ is: 'near', value: '10.0', within: '0.1' }, 10.1, true],
    [{ is: 'near', value: '0.3', within: '0' }, '0.30', true],
    [{ is: 'near', value: '10', within: '0.1' }, '10.11', false],
    [{ is: 'near', value: '10', within: '1' }, 'ten', false],
    [{ is: 'equal', value: 'a\u0301' }, 'a\u0301', true],
  ])('%j of %j', (expectation, value, holds) => {
    expect(isAsExpected(expectation, value as never)).toBe(holds);
  });

  test('accepted for one field leaves the others as they were', async () => {
    const { outcome: old } = await replay([noteOf('status')]);
    const { outcome } = await replay([noteOf('name')]);
    const one = expectField(expectAll(old), outcome, {
      key: 'book/person/P1',
      path: 'note',
      expectation: {
        is: 'equal',
        value: 'Skerry Line',
      },
    });
    const after = compareOutcome(outcome, one, catalog);
    expect(after.records.map(({ verdict }) => verdict)).toEqual(['holds', 'differs']);
    const none = expectField(one, outcome, {
      key: 'book/person/P2',
      path: 'note',
      expectation: undefined,
    });
    expect(none.records.map(({ key }) => key)).toEqual(['book/person/P1']);
  });

  test('of an unknown kind is refused with its place', () => {
    const { error } = expectedSchema.validate({
      records: [{ key: 'k', deed: 'write', fields: { note: { is: 'about', value: 1 } } }],
      messages: [],
      problems: [],
    });
    expect(error?.message).toContain('records[0].fields.note');
  });
});

test('law: an outcome holds against itself, and differs from another exactly where their values do', async () => {
  const formula = fc.constantFrom('status', 'name', 'UPPER(status)', '"x"', 'target.name');
  const bodies = fc.array(
    fc.oneof(
      formula.map(noteOf),
      formula.map((f) => rule([create('made', f)])),
    ),
    {
      maxLength: 3,
    },
  );
  await fc.assert(
    fc.asyncProperty(bodies, bodies, async (one, other) => {
      const [a, b] = [(await replay(one)).outcome, (await replay(other)).outcome];
      expect(compareOutcome(a, expectAll(a), catalog).verdict).toBe('holds');
      expect(differencesBetween(a, a, catalog)).toEqual([]);
      const differences = compareOutcome(b, expectAll(a), catalog).differences;
      expect(differences === 0).toBe(differencesBetween(a, b, catalog).length === 0);
    }),
    { numRuns: 60 },
  );
});

test('rules with mistakes take no part, and are named', () => {
  const { compiled, mistakes } = ensemble(
    [{ ...noteOf('colour'), name: 'Broken', id: 'r', version: 1 }],
    surroundings,
  );
  expect(compiled).toEqual([]);
  expect(mistakes.map((each) => each.rule)).toEqual(['Broken']);
});
