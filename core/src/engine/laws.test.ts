import fc from 'fast-check';
import { applyPatch } from 'fast-json-patch';
import { fieldsOf, recordAfter } from '../change/fields';
import { applyChange, invertChange } from '../change/recordChange';
import type { ChangeEvent } from '../model/event';
import type { StoredRecord } from '../model/record';
import type { Rule } from './rule';
import type { MappingLine } from './actions/mappingLine';
import type { Find } from '../model/find';
import { Catalog, type System } from '../model/system';
import { MemoryWorkspace } from '../workspace/memory';
import { compileRule } from './compileRule';
import { describeOutcome } from '../replay/describe';
import { deepestCascade, runEvent } from './run';

const names = ['a', 'b', 'c', 'd'] as const;
const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 1,
  recordTypes: [
    {
      name: 'thing',
      label: 'Thing',
      plural: 'Things',
      idField: 'id',
      nameField: 'id',
      fields: ['id', ...names].map((name) => ({ name, label: name, type: 'text' as const, maxLength: 40 })),
    },
  ],
};
const catalog = new Catalog([system]);
const surroundings = { catalog, tables: new Map() };
const ref = (id: string) => ({ system: 's', recordType: 'thing', id });

const formula = fc.oneof(
  fc.constantFrom(...names),
  fc.constantFrom('"x"', '"y"', '""'),
  fc.constantFrom(...names).map((name) => `LEFT(${name} & "z", 5)`),
  fc.constantFrom(...names).map((name) => `UPPER(${name})`),
  fc.constantFrom(...names).map((name) => `target.${name}`),
);
const line: fc.Arbitrary<MappingLine> = fc.record({
  field: fc.constantFrom(...names),
  formula,
  policy: fc.constantFrom('always', 'target blank', 'value present'),
});
const lines = fc.uniqueArray(line, { selector: ({ field }) => field, minLength: 1, maxLength: 3 });
const others: Find = {
  alias: 'other',
  system: 's',
  recordType: 'thing',
  match: [{ field: 'a', is: 'equal', formula: 'b' }],
  none: 'stop',
  several: 'each',
};
const rules: fc.Arbitrary<Rule[]> = fc.array(
  fc
    .record({
      watched: fc.uniqueArray(fc.constantFrom(...names), { maxLength: 2 }),
      guard: fc.constantFrom('', 'a <> b', 'ISBLANK(c)', 'CHANGED(d)'),
      far: fc.boolean(),
      lines,
    })
    .map(({ watched, guard, far, lines: written }): Rule => ({
      id: 'r',
      version: 1,
      name: 'r',
      note: '',
      trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched },
      guard,
      finds: far ? [others] : [],
      actions: [{ kind: 'write', target: far ? 'other' : 'record', lines: written }],
    })),
  { minLength: 1, maxLength: 4 },
);
const text = fc.constantFrom('', 'x', 'y', 'X');
const record = fc.record({ a: text, b: text, c: text, d: text });
const world = fc.tuple(rules, fc.array(record, { minLength: 1, maxLength: 4 }), fc.constantFrom(...names));

function prepared([ruleSet, things, changed]: [Rule[], Record<string, string>[], string]) {
  const stored = things.map((thing, at): StoredRecord => ({
    ref: ref(`T-${at}`),
    record: { id: `T-${at}`, ...thing },
  }));
  const event: ChangeEvent = {
    id: 'e',
    source: '/s',
    kind: 'updated',
    ref: ref('T-0'),
    time: '2026-03-09T09:00:00Z',
    record: stored[0]?.record ?? {},
    before: { ...stored[0]?.record, [changed]: 'before' },
    changed: [changed],
  };
  const compiled = ruleSet.map((rule, at) => {
    const result = compileRule({ ...rule, id: `r-${at}`, name: `rule ${at}` }, surroundings);
    if (!result.ok) throw new Error(result.problems[0]?.error.message);
    return result.compiled;
  });
  return { stored, event, compiled };
}

const run = ({ stored, event, compiled }: ReturnType<typeof prepared>) =>
  runEvent(event, { catalog, rules: compiled, workspace: new MemoryWorkspace(catalog, stored) });

test('for any rules and any event the engine ends, no deeper than it may go', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const { report } = await run(prepared(given));
      expect(Math.max(0, ...report.rules.map(({ depth }) => depth))).toBeLessThanOrEqual(deepestCascade);
    }),
  );
});

test('the same event over the same records gives the same report', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      expect(await run(prepared(given))).toEqual(await run(prepared(given)));
    }),
  );
});

test('the plan applied to the records gives the outcome, and undone gives the records back', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const ready = prepared(given);
      const { report } = await run(ready);
      for (const write of report.writes) {
        const before = ready.stored.find((stored) => stored.ref.id === write.change.ref.id)?.record;
        const { change } = write;
        const applied = applyChange(change, before);
        expect(applied).toEqual({ ok: true, record: recordAfter(write) });
        expect(applyChange(invertChange(change), applied.ok ? applied.record : undefined)).toEqual({
          ok: true,
          record: before,
        });
      }
    }),
  );
});

test('a planned write always changes something', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const { report } = await run(prepared(given));
      for (const { change } of report.writes) {
        const edits = fieldsOf(change);
        expect(edits.length).toBeGreaterThan(0);
        for (const { before, after } of edits) expect(after).not.toEqual(before);
      }
    }),
  );
});

test('rules that write different fields of the record from fields that nobody writes may run in any order', async () => {
  const independent = (field: string, from: string): Rule => ({
    id: field,
    version: 1,
    name: field,
    note: '',
    trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: ['a'] },
    guard: '',
    finds: [],
    actions: [{ kind: 'write', target: 'record', lines: [{ field, formula: from, policy: 'always' }] }],
  });
  await fc.assert(
    fc.asyncProperty(record, async (thing) => {
      const both = [independent('c', 'a & "1"'), independent('d', 'b & "2"')];
      const one = await run(prepared([both, [thing], 'a']));
      const other = await run(prepared([both.toReversed(), [thing], 'a']));
      const after = (result: typeof one) => result.report.writes.map((write) => recordAfter(write));
      expect(after(one)).toEqual(after(other));
    }),
  );
});

describe('a find', () => {
  const findWith = async (more: Partial<Find>, things: Record<string, string>[]) => {
    const rule: Rule = {
      id: 'r',
      version: 1,
      name: 'r',
      note: '',
      trigger: { system: 's', recordType: 'thing', kinds: ['updated'], watched: [] },
      guard: '',
      finds: [{ ...others, ...more }],
      actions: [
        { kind: 'write', target: 'other', lines: [{ field: 'd', formula: '"found"', policy: 'always' }] },
      ],
    };
    const { report } = await run(prepared([[rule], things, 'c']));
    return report;
  };
  const seeker = { a: '', b: 'key', c: '', d: '' };
  const held = { a: 'key', b: '', c: '', d: '' };

  test('that wants one and meets several fails and writes nothing', async () => {
    const report = await findWith({ several: 'fail' }, [seeker, held, held]);
    expect(report.rules[0]).toMatchObject({
      verdict: 'failed',
      because: '2 records were found for “other”, and one is wanted.',
    });
    expect(report.writes).toEqual([]);
  });

  test('that reaches each writes to all of them', async () => {
    const report = await findWith({ several: 'each' }, [seeker, held, held]);
    expect(report.writes.map((write) => write.change.ref.id)).toEqual(['T-1', 'T-2']);
  });

  test.each<[Find['none'], string]>([
    ['stop', 'nothing found'],
    ['fail', 'failed'],
    ['go on', 'nothing found'],
  ])('that finds none, told to %s', async (none, verdict) => {
    expect((await findWith({ none }, [seeker])).rules[0]?.verdict).toBe(verdict);
  });

  test('whose condition fails says which', async () => {
    const report = await findWith({ match: [{ field: 'a', is: 'equal', formula: 'PHONE(b)' }] }, [seeker]);
    expect(report.rules[0]?.because).toMatch(
      /^The condition on “a” failed: “key” is not a telephone number\./,
    );
  });
});

test('the patch of an outcome, applied by a second implementation of RFC 6902, gives the record after it', async () => {
  // Fields that are blank are absent in some records, as systems leave them out.
  const sparse = fc.record({ a: text, b: text, c: text, d: text }, { requiredKeys: [] });
  const given = fc.tuple(rules, fc.array(sparse, { minLength: 1, maxLength: 4 }), fc.constantFrom(...names));
  await fc.assert(
    fc.asyncProperty(given, async ([ruleSet, things, changed]) => {
      const { report } = await run(prepared([ruleSet, things as Record<string, string>[], changed]));
      for (const { before, after, patch } of describeOutcome(report).records) {
        const document = JSON.parse(JSON.stringify(before)) as object;
        expect(applyPatch(document, patch as never, true).newDocument).toEqual(after);
      }
    }),
  );
});
