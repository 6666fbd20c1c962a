import * as fc from 'fast-check';
import type { ChangeEvent, EventKind } from '../model/event';
import { select } from '../model/triggers';
import { isWatched } from '../model/triggers/updated';
import type { CompiledRule } from './compiled';
import { rulesAbout, RulesOfType } from './rulesOfType';
import { compiled } from './testHarbour';

const paths = ['name', 'address', 'address.town', 'address.town.code', 'addressee', 'lines', 'lines.kg'];
const kinds: readonly EventKind[] = ['created', 'updated', 'deleted', 'requested', 'scheduled'];

/** A rule of which only its trigger counts here. */
function ruleOf(
  at: number,
  trigger: { kinds: readonly EventKind[]; watched: readonly string[] },
): CompiledRule {
  const [rule] = compiled([
    {
      name: `Rule ${at}`,
      note: '',
      trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [] },
      guard: '',
      finds: [],
      actions: [],
    },
  ]);
  if (!rule) throw new Error('there is a rule');
  return {
    ...rule,
    rule: { ...rule.rule, id: `r${at}`, trigger: { ...rule.rule.trigger, ...trigger } },
  } as CompiledRule;
}

test('what is looked up is what each rule would say if it were asked, whatever is watched and changed', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          kinds: fc.uniqueArray(fc.constantFrom(...kinds), { minLength: 1 }),
          watched: fc.uniqueArray(fc.constantFrom(...paths), { maxLength: 3 }),
        }),
        { maxLength: 12 },
      ),
      fc.constantFrom(...kinds),
      fc.uniqueArray(fc.constantFrom(...paths), { maxLength: 3 }),
      (triggers, kind, changed) => {
        const rules = triggers.map((trigger, at) => ruleOf(at, trigger));
        const asked = rules.filter(({ rule: { trigger } }) => {
          if (kind !== 'updated' && trigger.kinds.includes(kind)) return true;
          if (!trigger.kinds.includes('updated')) return false;
          return trigger.watched.length === 0 || changed.some((path) => isWatched(path, trigger.watched));
        });
        const started = new RulesOfType(rules).startedBy(kind, changed);
        expect(rules.filter((rule) => started.has(rule))).toEqual(asked);
      },
    ),
    { numRuns: 300 },
  );
});

test('whatever an event starts is among what is looked up', () => {
  fc.assert(
    fc.property(
      fc.record({
        kinds: fc.uniqueArray(fc.constantFrom(...kinds), { minLength: 1 }),
        watched: fc.uniqueArray(fc.constantFrom('name', 'status', 'code'), { maxLength: 2 }),
      }),
      fc.constantFrom(...kinds),
      fc.uniqueArray(fc.constantFrom('name', 'status', 'size'), { maxLength: 3 }),
      (trigger, kind, changed) => {
        const rule = ruleOf(1, trigger);
        const event: ChangeEvent = {
          id: 'e',
          source: '/book',
          kind,
          ref: { system: 'book', recordType: 'company', id: 'C1' },
          time: '2026-03-09T10:00:00Z',
          record: {},
          changed,
        };
        if (select(rule.rule.trigger, rule.recordType, event).fires)
          expect(new RulesOfType([rule]).startedBy(kind, changed).has(rule)).toBe(true);
      },
    ),
    { numRuns: 300 },
  );
});

test('rules are found by the record type that they start from, in their order; others have none', () => {
  const rules = [1, 2, 3].map((at) => ruleOf(at, { kinds: ['updated'], watched: [] }));
  const [first] = rules;
  if (!first) throw new Error('there is a rule');
  const { system, recordType } = first.rule.trigger;
  expect(rulesAbout({ system, recordType, id: 'x' }, rules).rules).toEqual(rules);
  expect(rulesAbout({ system, recordType: 'ghost', id: 'x' }, rules).rules).toEqual([]);
});
