import fc from 'fast-check';
import { recordAfter } from '../change/fields';
import { applyChange, invertChange } from '../change/recordChange';
import type { Action } from './actions';
import type { Find } from '../model/find';
import type { RuleBody } from './rule';
import type { StoredRecord } from '../model/record';
import { deepestCascade } from './run';
import { find, line, ref, rule, run, stored, updated } from './testHarbour';

/** Laws that hold whatever rules there are, over rules of every kind of trigger, find and action. */
const companyFields = ['name', 'domain', 'status', 'code', 'old_phone'] as const;
const field = fc.constantFrom(...companyFields);
const formula = fc.oneof(
  field,
  fc.constantFrom('"x"', '"y"', '""', 'target.name & "!"', 'LEFT(name & code, 6)'),
  fc.constantFrom('VALUE(name)', 'UPPER(status)', 'before.status'),
);
const oneLine = fc.tuple(field, formula).map(([name, made]) => line(name, made));
const lines = fc.uniqueArray(oneLine, { selector: (each) => each.field, minLength: 1, maxLength: 3 });
const personLine = fc
  .tuple(fc.constantFrom('name', 'note', 'status'), formula)
  .map(([name, made]) => line(name, made));
const only = fc.constantFrom(undefined, 'target.name <> "x"', 'status = "x"');

const action = (target: string): fc.Arbitrary<Action> =>
  fc
    .oneof(
      lines.map((written): Action => ({ kind: 'write', target: 'record', lines: written })),
      personLine.map((written): Action => ({
        kind: 'write',
        target,
        lines: target === 'record' ? [line('code', written.formula)] : [written],
      })),
      personLine.map((written): Action => ({
        kind: 'create',
        alias: 'made',
        system: 'book',
        recordType: 'person',
        lines: [written, line('company', 'id')],
      })),
      lines.map((written): Action => ({
        kind: 'copy',
        of: 'record',
        alias: 'copied',
        system: 'book',
        recordType: 'company',
        lines: written,
      })),
      fc.constant<Action>({ kind: 'remove', target }),
      formula.map((made): Action => ({
        kind: 'send',
        endpoint: 'post',
        type: 'example.changed',
        parts: [{ name: 'value', formula: made.replace('target.', '') }],
      })),
      formula.map((made): Action => ({
        kind: 'tidy',
        target: 'record',
        steps: [
          { do: 'clean', field: 'name', how: 'upper case' },
          { do: 'set when absent', field: 'code', formula: made },
          { do: 'remove fields', pattern: 'old_*' },
        ],
      })),
    )
    .chain((made) =>
      only.map((condition) =>
        condition === undefined || (made.kind === 'send' && condition.includes('target'))
          ? made
          : { ...made, only: condition },
      ),
    );

const finds: fc.Arbitrary<readonly Find[]> = fc.constantFrom(
  [],
  [find('person', 'company', 'id')],
  [find('person', 'company', 'id', { several: 'first', none: 'go on' })],
  [find('person', 'name', 'name', { none: 'create', several: 'first', counterpart: true })],
);
const body: fc.Arbitrary<RuleBody> = finds.chain((reached) =>
  fc
    .record({
      watched: fc.uniqueArray(field, { maxLength: 2 }),
      kinds: fc.constantFrom(
        ['updated'] as const,
        ['created', 'updated'] as const,
        ['updated', 'deleted'] as const,
      ),
      guard: fc.constantFrom('', 'name <> code', 'CHANGED(status)'),
      becomesTrue: fc.boolean(),
      stops: fc.boolean(),
      actions: fc.array(action(reached.length > 0 ? 'person' : 'record'), { minLength: 1, maxLength: 2 }),
    })
    .map(({ watched, kinds, guard, becomesTrue, stops, actions }) =>
      rule(distinctNames(actions), {
        trigger: { system: 'book', recordType: 'company', kinds, watched },
        guard,
        becomesTrue,
        finds: reached,
        onError: stops ? 'stop' : 'go on',
      }),
    ),
);
const bodies = fc
  .array(body, { minLength: 1, maxLength: 3 })
  .map((all) => all.map((each, at) => ({ ...each, name: `rule ${at}` })));
const value = fc.constantFrom('', 'x', 'y', 'Skerry');
const company = fc.record({ name: value, domain: value, status: value, code: value, old_phone: value });
const people = fc.array(fc.record({ name: value, note: value, status: value }), { maxLength: 3 });
const world = fc.record({ bodies, company, people });

function distinctNames(actions: readonly Action[]): readonly Action[] {
  return actions.map((each, at) =>
    each.kind === 'create' || each.kind === 'copy' ? { ...each, alias: `${each.alias}${at}` } : each,
  );
}

interface World {
  readonly bodies: readonly RuleBody[];
  readonly company: Record<string, string>;
  readonly people: readonly Record<string, string>[];
}
const records = ({ people: all }: World): StoredRecord[] =>
  all.map((person, at) => stored('person', `P${at}`, { ...person, company: 'C1' }));
const runWorld = (given: World) =>
  run(updated(given.company, { status: 'before' }), given.bodies, records(given));

test('for any rules of any kinds the engine ends, no deeper than it may go', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const { rules } = await runWorld(given);
      expect(Math.max(0, ...rules.map(({ depth }) => depth))).toBeLessThanOrEqual(deepestCascade);
    }),
    { numRuns: 300 },
  );
});

test('the same event over the same records gives the same report and the same messages', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => expect(await runWorld(given)).toEqual(await runWorld(given))),
  );
});

test('every write of a plan, applied and then undone, gives the records back', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const before = new Map(
        [...records(given), { ref: ref('company', 'C1'), record: { id: 'C1', ...given.company } }].map(
          (each) => [each.ref.id, each.record],
        ),
      );
      for (const write of (await runWorld(given)).writes) {
        const { change } = write;
        const held = change.kind === 'create' ? undefined : before.get(change.ref.id);
        const applied = applyChange(change, held);
        expect(applied.ok).toBe(true);
        const undone = applyChange(invertChange(change), applied.ok ? applied.record : undefined);
        expect(undone).toEqual({ ok: true, record: held });
      }
    }),
  );
});

test('a rule that stops at errors writes nothing at all when it has one', async () => {
  await fc.assert(
    fc.asyncProperty(world, async (given) => {
      const [first] = given.bodies;
      if (!first) return;
      const alone = { ...given, bodies: [{ ...first, onError: 'stop' as const }] };
      const { rules, writes } = await runWorld(alone);
      if (rules[0]?.verdict === 'failed') expect(writes).toEqual([]);
    }),
  );
});

test('the order of rules that have nothing to do with each other does not matter', async () => {
  // Each rule watches, reads and writes fields of its own, so that none sees what another did.
  const own = [
    ['name', 'TRIM(name) & "."'],
    ['domain', 'LOWER(domain)'],
    ['code', 'LEFT(code & "xx", 3)'],
    ['status', 'IF(status = "x", "y", status)'],
  ] as const;
  const independent = own.map(([name, made]) =>
    rule([{ kind: 'write', target: 'record', lines: [line(name, made)] }], {
      name,
      trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [name, 'old_phone'] },
    }),
  );
  await fc.assert(
    fc.asyncProperty(company, fc.shuffledSubarray(independent, { minLength: 4 }), async (held, order) => {
      const event = updated(held, { old_phone: 'before' });
      const [a, b] = await Promise.all([run(event, independent), run(event, order)]);
      expect(a.writes.map(recordAfter)).toEqual(b.writes.map(recordAfter));
    }),
  );
});
