import fc from 'fast-check';
import { fieldsOf } from '../change/fields';
import type { ChangeEvent } from '../model/event';
import type { Find } from '../model/find';
import type { StoredRecord } from '../model/record';
import { Catalog, type System } from '../model/system';
import { MemoryWorkspace } from '../workspace/memory';
import { compileRule } from './compileRule';
import type { Rule } from './rule';
import { runEvent } from './run';

/** Once is once: a rule is started once for a change, whatever the order of the rules. */
const names = ['a', 'b', 'c', 'd'] as const;
type Name = (typeof names)[number];
const of = (name: string, fields: readonly string[]) => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'id',
  fields: ['id', ...fields].map((field) => ({ name: field, label: field, type: 'text' as const })),
});
const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 1,
  recordTypes: [of('thing', names), of('task', ['by', 'thing'])],
};
const catalog = new Catalog([system]);
const ref = { system: 's', recordType: 'thing', id: 'T-1' };

function rule(name: string, change: Partial<Rule>): Rule {
  return {
    id: name,
    version: 1,
    name,
    note: '',
    trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [],
    actions: [],
    ...change,
  };
}

/** Turns a field on once another one is on. */
const turnsOn = (field: Name, once: Name): Rule =>
  rule(`${field} once ${once}`, {
    trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: [once] },
    guard: `${once} = "on"`,
    actions: [
      { kind: 'write', target: 'record', lines: [{ field, formula: '"on"', policy: 'always' as const }] },
    ],
  });

/** Makes a task each time that it is started. */
const taskBy = (name: string, change: Partial<Rule>): Rule =>
  rule(name, {
    ...change,
    actions: [
      {
        kind: 'create',
        alias: 'made',
        system: 's',
        recordType: 'task',
        lines: [{ field: 'by', formula: `"${name}"`, policy: 'always' }],
      },
    ],
  });

const whenItTurns = (field: Name): Rule =>
  taskBy(`${field} turns on`, {
    trigger: {
      system: 's',
      recordType: 'thing',
      kinds: ['updated'],
      watched: [field],
      turns: [{ field, to: 'on' }],
    },
  });

const whenAllBecomeOn = (fields: readonly Name[]): Rule =>
  taskBy(`${fields.join(' and ')} become on`, {
    guard: `AND(${fields.map((field) => `${field} = "on"`).join(', ')})`,
    becomesTrue: true,
  });

async function run(rules: readonly Rule[], others: readonly StoredRecord[] = []) {
  const before = { id: 'T-1', a: 'off', b: 'off', c: 'off', d: 'off' };
  const record = { ...before, a: 'on' };
  const event: ChangeEvent = {
    id: 'e',
    source: '/s',
    kind: 'updated',
    ref,
    time: '2026-03-09T09:00:00Z',
    record,
    before,
    changed: ['a'],
  };
  const compiled = rules.map((each) => {
    const result = compileRule(each, { catalog, tables: new Map() });
    if (!result.ok) throw new Error(result.problems[0]?.error.message);
    return result.compiled;
  });
  const { report } = await runEvent(event, {
    catalog,
    rules: compiled,
    workspace: new MemoryWorkspace(catalog, [{ ref, record }, ...others]),
  });
  const tasks = report.writes.flatMap(({ change }) =>
    change.kind === 'create' ? [String(change.record['by'])] : [],
  );
  return { report, tasks: tasks.sort() };
}

describe('a rule is started once for a change', () => {
  test.each(['before', 'after'])('when it stands %s the rule that makes the change', async (where) => {
    const observers = [whenItTurns('b'), whenAllBecomeOn(['b'])];
    const writer = turnsOn('b', 'a');
    const { tasks } = await run(where === 'before' ? [...observers, writer] : [writer, ...observers]);
    expect(tasks).toEqual(['b become on', 'b turns on']);
  });

  test('what comes after it has seen a record starts it again', async () => {
    // The first rule sees a alone; b and c are turned on after it, one by one.
    const watch = taskBy('any change', {});
    const { tasks } = await run([watch, turnsOn('c', 'b'), turnsOn('b', 'a')]);
    expect(tasks).toEqual(['any change', 'any change', 'any change']);
    // The last rule of the list sees all of it together.
    expect((await run([turnsOn('b', 'a'), turnsOn('c', 'b'), watch])).tasks).toEqual(['any change']);
  });

  test('for any rules in any order each crossing fires once', async () => {
    const writers = [turnsOn('b', 'a'), turnsOn('c', 'b'), turnsOn('d', 'c'), turnsOn('d', 'a')];
    const observers = fc.oneof(
      fc.constantFrom(...names).map((name) => ({ needs: [name], rule: whenItTurns(name) })),
      fc
        .uniqueArray(fc.constantFrom(...names), { minLength: 1 })
        .map((fields) => ({ needs: fields, rule: whenAllBecomeOn(fields) })),
    );
    const sets = fc
      .tuple(
        fc.subarray(writers),
        fc.uniqueArray(observers, { selector: ({ rule: { name } }) => name, minLength: 1, maxLength: 4 }),
      )
      .chain(([written, seen]) =>
        fc.record({
          seen: fc.constant(seen),
          written: fc.constant(written),
          order: fc.shuffledSubarray([...written, ...seen.map((each) => each.rule)], {
            minLength: written.length + seen.length,
          }),
        }),
      );
    await fc.assert(
      fc.asyncProperty(sets, async ({ seen, written, order }) => {
        const on = new Set<string>(['a']);
        for (const _round of names)
          for (const { name } of written) {
            const [field = '', , once = ''] = name.split(' ');
            if (on.has(once)) on.add(field);
          }
        const wanted = seen.filter(({ needs }) => needs.every((name) => on.has(name)));
        const { tasks, report } = await run(order);
        expect(report.problems).toEqual([]);
        expect(tasks).toEqual(wanted.map((each) => each.rule.name).sort());
      }),
      { numRuns: 400 },
    );
  });
});

describe('a circle', () => {
  const swing = (name: string, field: Name, from: Name, is: string, to: string): Rule =>
    rule(name, {
      trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: [from] },
      guard: `${from} = "${is}"`,
      actions: [
        { kind: 'write', target: 'record', lines: [{ field, formula: `"${to}"`, policy: 'always' }] },
      ],
    });

  test('names every rule in it and no other, and leaves nothing of it in the plan, whatever the order', async () => {
    // a on → b on → a off → b off → a on.
    const rules = [
      swing('one', 'b', 'a', 'on', 'on'),
      swing('two', 'a', 'b', 'on', 'off'),
      swing('three', 'b', 'a', 'off', 'off'),
      swing('four', 'a', 'b', 'off', 'on'),
      rule('beside', {
        actions: [
          { kind: 'write', target: 'record', lines: [{ field: 'd', formula: '"kept"', policy: 'always' }] },
        ],
      }),
    ];
    await fc.assert(
      fc.asyncProperty(fc.shuffledSubarray(rules, { minLength: rules.length }), async (order) => {
        const { report } = await run(order);
        expect(report.problems).toHaveLength(1);
        for (const name of ['one', 'two', 'three', 'four'])
          expect(report.problems[0]).toMatch(new RegExp(`Rules in it: .*${name}`));
        expect(report.problems[0]).not.toContain('beside');
        const [written, ...others] = report.writes;
        expect(others).toEqual([]);
        expect(written?.change).toEqual({
          kind: 'edit',
          ref,
          edits: [{ path: 'd', before: 'off', after: 'kept' }],
        });
      }),
    );
  });

  test('of any rules leaves nothing of what the named ones write, whatever the order', async () => {
    const one = fc.record({
      field: fc.constantFrom('a', 'b', 'c'),
      from: fc.constantFrom('a', 'b', 'c'),
      is: fc.constantFrom('on', 'off'),
      to: fc.constantFrom('on', 'off'),
    });
    const ring = [
      { field: 'b', from: 'a', is: 'on', to: 'on' },
      { field: 'a', from: 'b', is: 'on', to: 'off' },
      { field: 'b', from: 'a', is: 'off', to: 'off' },
      { field: 'a', from: 'b', is: 'off', to: 'on' },
    ] as const;
    const swings = fc
      .tuple(fc.subarray([...ring], { minLength: 3 }), fc.array(one, { maxLength: 3 }))
      .chain(([some, others]) => {
        const every = [...some, ...others];
        return fc.shuffledSubarray(every, { minLength: every.length });
      });
    let circles = 0;
    await fc.assert(
      fc.asyncProperty(swings, async (given) => {
        const rules = given.map(({ field, from, is, to }, at) =>
          swing(`rule-${at}`, field as Name, from as Name, is, to),
        );
        const { report } = await run(rules);
        const named = new Set(report.problems.flatMap((problem) => problem.match(/rule-\d/g) ?? []));
        if (named.size > 0) circles++;
        // A field that rules beside the circle write as well may have their value.
        const going = given
          .filter((_each, at) => named.has(`rule-${at}`))
          .map(({ field }) => field as string);
        const beside = given
          .filter((_each, at) => !named.has(`rule-${at}`))
          .map(({ field }) => field as string);
        const left = report.writes.flatMap(({ change }) => fieldsOf(change).map(({ path }) => path));
        expect(left.filter((path) => going.includes(path) && !beside.includes(path))).toEqual([]);
        expect(report.problems.length).toBeLessThanOrEqual(1 + named.size);
      }),
      { numRuns: 2000 },
    );
    expect(circles).toBeGreaterThan(100);
  });

  test('over two records is found as well, and neither is written', async () => {
    const between = (name: string, of: string, find: Find, write: { field: string; formula: string }): Rule =>
      rule(name, {
        trigger: { system: 's', recordType: of, kinds: ['updated'], watched: [] },
        finds: [find],
        actions: [{ kind: 'write', target: find.alias, lines: [{ ...write, policy: 'always' }] }],
      });
    const finding = (recordType: string, field: string, formula: string): Find => ({
      alias: 'other',
      system: 's',
      recordType,
      match: [{ field, is: 'equal', formula }],
      none: 'stop',
      several: 'fail',
    });
    const task = {
      ref: { system: 's', recordType: 'task', id: 'K-1' },
      record: { id: 'K-1', thing: 'T-1', by: '' },
    };
    const { report } = await run(
      [
        between('down', 'thing', finding('task', 'thing', 'id'), {
          field: 'by',
          formula: 'IF(a = "on", "x", "y")',
        }),
        between('up', 'task', finding('thing', 'id', 'thing'), {
          field: 'a',
          formula: 'IF(by = "x", "off", "on")',
        }),
      ],
      [task],
    );
    expect(report.problems).toEqual([
      expect.stringMatching(/^A circle was stopped: .*Rules in it: (down → up|up → down)/),
    ]);
    expect(report.writes).toEqual([]);
  });

  test('that never comes back to a value is stopped, says where, and is not written', async () => {
    const grow = (name: string): Rule =>
      rule(name, {
        trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: ['a', 'b'] },
        actions: [
          { kind: 'write', target: 'record', lines: [{ field: 'b', formula: 'b & "x"', policy: 'always' }] },
        ],
      });
    const { report } = await run([grow('one'), grow('two')]);
    expect(report.problems).toEqual([
      'What the writes cause was followed 8 deep and goes on. It was stopped at s/thing/T-1. Rules in it: one → two. What went round is not written.',
    ]);
    expect(report.writes).toEqual([]);
  });
});
