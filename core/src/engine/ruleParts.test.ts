import * as fc from 'fast-check';
import type { Find } from '../model/find';
import type { RuleBody } from './rule';
import { moved, partOf, printPart, readPart, withoutPart, withPart, type RulePart } from './ruleParts';

const find = (alias: string, formula: string, more: Partial<Find> = {}): Find => ({
  alias,
  system: 'desk',
  recordType: 'party',
  match: [{ field: 'number', is: 'equal', formula }],
  none: 'stop',
  several: 'fail',
  ...more,
});

const source: RuleBody = {
  name: 'Company to party',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['name'] },
  guard: 'party.zone = "N"',
  becomesTrue: true,
  finds: [find('party', 'id'), find('agent', 'party.agent'), find('other', 'code')],
  actions: [
    {
      kind: 'write',
      target: 'agent',
      lines: [{ field: 'title', formula: 'agent.title & "party"', policy: 'always' }],
    },
    {
      kind: 'create',
      system: 'desk',
      recordType: 'enquiry',
      alias: 'newEnquiry',
      lines: [{ field: 'subject', formula: 'name', policy: 'always' }],
    },
  ],
};

const empty: RuleBody = { ...source, name: 'Another', guard: '', becomesTrue: false, finds: [], actions: [] };

const carried = (part: RulePart | undefined): RulePart => {
  const read = readPart(part ? printPart(part) : '');
  if (!read || typeof read === 'string') throw new Error(`not read: ${read}`);
  return read;
};
const part = (of: 'finds' | 'actions', at: number) => carried(partOf(source, { of, at }));

test('an action comes with the finds that it names, and with those that these name', () => {
  expect(part('actions', 0).needs.map(({ alias }) => alias)).toEqual(['party', 'agent']);
  expect(part('actions', 1).needs).toEqual([]);
  expect(part('finds', 1).needs.map(({ alias }) => alias)).toEqual(['party']);
  expect(partOf(source, { of: 'guard' })?.needs.map(({ alias }) => alias)).toEqual(['party']);
  expect(partOf(source, { of: 'actions', at: 7 })).toBeUndefined();
});

test('in an empty rule a part stands as it was', () => {
  const { body, place, along, names } = withPart(empty, part('actions', 0));
  expect(body.finds).toEqual(source.finds.slice(0, 2));
  expect(body.actions).toEqual([source.actions[0]]);
  expect({ place, along, names }).toEqual({
    place: { of: 'actions', at: 0 },
    along: ['party', 'agent'],
    names: [],
  });
});

test('a find that the rule has under another name is not put in again, and the part says that name', () => {
  const into = { ...empty, finds: [find('customer', 'id')] };
  const { body, along, names } = withPart(into, part('actions', 0));
  expect(body.finds.map(({ alias }) => alias)).toEqual(['customer', 'agent']);
  expect(body.finds[1]?.match[0]?.formula).toBe('customer.agent');
  expect(along).toEqual(['agent']);
  expect(names).toEqual([{ from: 'party', to: 'customer' }]);
});

test('a name that is taken for something else gets a number, in the formulas and the target as well', () => {
  const into = { ...empty, finds: [find('agent', 'somethingElse')] };
  const { body } = withPart(into, part('actions', 0));
  expect(body.finds.map(({ alias }) => alias)).toEqual(['agent', 'party', 'agent2']);
  expect(body.actions).toEqual([
    {
      kind: 'write',
      target: 'agent2',
      lines: [{ field: 'title', formula: 'agent2.title & "party"', policy: 'always' }],
    },
  ]);
});

test('a part that is pasted beside itself is another one', () => {
  const twice = withPart(source, part('actions', 1));
  expect(twice.body.actions[2]).toMatchObject({ alias: 'newEnquiry2' });
  const found = withPart(source, part('finds', 1));
  expect(found.body.finds.map(({ alias }) => alias)).toEqual(['party', 'agent', 'other', 'agent2']);
  expect(found.place).toEqual({ of: 'finds', at: 3 });
});

test('a guard takes the place of the one that is there, with its finds', () => {
  const { body } = withPart({ ...empty, guard: 'TRUE' }, carried(partOf(source, { of: 'guard' })));
  expect(body.guard).toBe('party.zone = "N"');
  expect(body.becomesTrue).toBe(true);
  expect(body.finds.map(({ alias }) => alias)).toEqual(['party']);
  const plain = carried(partOf({ ...source, guard: 'name = "x"', becomesTrue: false }, { of: 'guard' }));
  expect(withPart(source, plain).body.becomesTrue).toBeUndefined();
});

test('what is nothing of ours is left to others, and what is broken is told', () => {
  expect(readPart('phone\tphone\talways')).toBeUndefined();
  const text = printPart(part('actions', 0));
  expect(readPart(text.slice(0, -4))).toMatch(/cut off/);
  expect(readPart(text.replace('"write"', '"erase"'))).toMatch(
    /^What was pasted is no part of a rule: .*action.kind/,
  );
  expect(readPart(text.replace('"vastKnotPart": 1', '"vastKnotPart": 9'))).toMatch(/vastKnotPart/);
});

test('moving there and back gives the rule as it was, and nothing gets lost', () => {
  fc.assert(
    fc.property(
      fc.nat(3),
      fc.nat(3),
      fc.constantFrom('finds' as const, 'actions' as const),
      (from, to, of) => {
        const after = moved(source, of, from, to);
        expect(moved(after, of, to, from)).toEqual(
          from < source[of].length && to < source[of].length ? source : after,
        );
        expect(new Set<unknown>(after[of])).toEqual(new Set<unknown>(source[of]));
        if (from < source[of].length && to < source[of].length) expect(after[of][to]).toBe(source[of][from]);
      },
    ),
  );
});

test('a part is taken out, and the others keep their order', () => {
  expect(withoutPart(source, 'finds', 1).finds.map(({ alias }) => alias)).toEqual(['party', 'other']);
  expect(withoutPart(source, 'actions', 0).actions).toEqual([source.actions[1]]);
});
