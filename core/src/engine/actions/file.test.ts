import type { Action } from '.';
import type { RuleBody } from '../rule';
import type { ChangeEvent } from '../../model/event';
import { noRecord } from '../../model/record';
import { fileNameProblem } from '../../formats/written/fileName';
import { company, compiled, find, line, ref, rule, run, stored } from '../testHarbour';

const people = [
  stored('person', 'P1', { name: 'Runa', note: 'Gate 2; "quay"', status: 'here', company: 'C1' }),
  stored('person', 'P2', { name: 'Odd', note: null, status: 'away', company: 'C1' }),
  stored('person', 'P3', { name: 'Åse', note: '=1+1', status: 'here', company: 'C1' }),
];
const list: Extract<Action, { kind: 'file' }> = {
  kind: 'file',
  name: '"people of " & name',
  format: 'csv',
  to: { kind: 'folder', folder: 'handover' },
  columns: [
    { name: 'Person', formula: 'person.name' },
    { name: 'Note', formula: 'person.note' },
    { name: 'Size of the company', formula: 'size * 10' },
  ],
};
const reaching = { finds: [find('person', 'company', 'id')] };
const written = (action: Action, more: Partial<RuleBody> = reaching, records = people) =>
  run(company, [rule([action], more)], records);

test('a file has a row for each record that the finds reach, and values as they are', async () => {
  const { messages, writes, rules } = await written(list);
  expect(writes).toEqual([]);
  expect(messages).toEqual([
    {
      id: 'new-1-e1',
      endpoint: 'handover',
      way: 'folder',
      type: 'file',
      ref: ref('company', 'C1'),
      rule: { id: 'r0', name: 'rule', version: 1 },
      data: {
        name: 'people of Skerry Line.csv',
        format: 'csv',
        columns: ['Person', 'Note', 'Size of the company'],
        rows: [
          ['Runa', 'Gate 2; "quay"', 30],
          ['Odd', null, 30],
          ['Åse', '=1+1', 30],
        ],
      },
    },
  ]);
  expect(rules[0]).toMatchObject({ verdict: 'writes', because: 'Writes 1 file.' });
  expect(rules[0]?.steps.at(-1)).toMatchObject({ kind: 'file', name: 'people of Skerry Line.csv', rows: 3 });
});

test('a condition leaves rows out; where none is left, there is no file', async () => {
  const here = await written({ ...list, only: 'person.status = "here"' });
  expect(here.messages.map(({ data }) => data['rows'])).toEqual([
    [
      ['Runa', 'Gate 2; "quay"', 30],
      ['Åse', '=1+1', 30],
    ],
  ]);
  const { messages, rules } = await written({ ...list, only: 'person.status = "gone"' });
  expect(messages).toEqual([]);
  expect(rules[0]).toMatchObject({
    verdict: 'nothing to write',
    because: 'No action has a condition that holds.',
  });
});

test('a cell that cannot be computed keeps the whole file back, and says which row and column', async () => {
  const { messages, rules } = await written({
    ...list,
    columns: [...list.columns, { name: 'Number', formula: 'VALUE(IF(person.name = "Odd", "x", "7"))' }],
  });
  expect(messages).toEqual([]);
  expect(rules[0]?.verdict).toBe('failed');
  expect(rules[0]?.because).toMatch(/^1 thing failed: The file is not written: row 2, Number: /);
});

test('a name that no folder takes keeps the file back', async () => {
  const { messages, rules } = await written({ ...list, name: '"../" & name' });
  expect(messages).toEqual([]);
  expect(rules[0]?.because).toBe(
    '1 thing failed: The file is not written: “../Skerry Line.csv” cannot be its name: it holds one of \\ / : * ? " < > |.',
  );
});

test.each([
  ['', 'its name is blank.'],
  ['.hidden', '“.hidden” cannot be its name: it begins with a point.'],
  ['a\u0000b.csv', 'its name holds a sign that cannot be seen.'],
  ['aux.csv', '“aux.csv” cannot be its name: some computers keep it for a device.'],
  ['list.csv ', '“list.csv ” cannot be its name: it ends with a point or a space.'],
  ['å'.repeat(101), 'its name is longer than 200 bytes.'],
  ['Åse’s list (2).csv', undefined],
])('%j as the name of a file: %s', (name, problem) => {
  expect(fileNameProblem(name)).toBe(problem);
});

test('more rows than a file takes are a sentence, and no file', async () => {
  const many = Array.from({ length: 20_001 }, (_each, at) => stored('person', `P${at}`, { company: 'C1' }));
  const { messages, rules } = await written(list, reaching, many);
  expect(messages).toEqual([]);
  expect(rules[0]?.because).toContain('it would have 20,001 rows, and 20,000 are written at most.');
});

test('a file sees what the rule writes before it, and ids that are not given yet are told as such', async () => {
  const account: Action = {
    kind: 'create',
    system: 'desk',
    recordType: 'account',
    alias: 'opened',
    lines: [line('name', 'name')],
  };
  const columns = [
    { name: 'Account', formula: 'opened.name' },
    { name: 'Number', formula: 'opened.id' },
  ];
  const { messages, writes } = await run(company, [rule([account, { ...list, columns }])]);
  const [created] = writes;
  expect(messages[0]?.data['rows']).toEqual([['Skerry Line', created?.change.ref.id]]);
});

describe('a rule that is done once for all', () => {
  const everyone: RuleBody = rule(
    [{ ...list, name: '"people"', columns: [{ name: 'Person', formula: 'person.name' }] }],
    {
      trigger: {
        system: 'book',
        recordType: 'company',
        kinds: ['scheduled', 'requested'],
        watched: [],
        schedule: { at: '06:00', zone: 'UTC', days: [] },
        once: true,
      },
      finds: [find('person', 'status', '"here"')],
    },
  );
  const due: ChangeEvent = {
    id: 'due',
    source: '/vast-knot/clock',
    kind: 'scheduled',
    ref: ref('company', noRecord),
    time: '2026-03-09T06:00:00Z',
    record: {},
    changed: [],
    rule: 'r0',
  };

  test('it starts from no record, and gives one file of all that its finds reach', async () => {
    const { messages } = await run(due, [everyone], people);
    expect(messages.map(({ data }) => data['rows'])).toEqual([[['Runa'], ['Åse']]]);
  });

  test('formulas cannot read a record that there is none of, and nothing is written to it', () => {
    expect(() => compiled([{ ...everyone, guard: 'status = "open"' }])).toThrow(/status/);
    const writes = { ...everyone, actions: [{ kind: 'write', target: 'record', lines: [] }] } as RuleBody;
    expect(() => compiled([writes])).toThrow(/starts from no record/);
  });

  test('what tells of a record cannot start it', () => {
    const { trigger } = everyone;
    expect(() =>
      compiled([{ ...everyone, trigger: { ...trigger, kinds: ['updated', 'scheduled'] } }]),
    ).toThrow(/Only a rule that starts by the clock/);
  });
});
