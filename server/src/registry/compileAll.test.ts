import { Catalog, type Rule, type Surroundings } from '@vast-knot/core';
import { compileAll, type Compilations } from './compileAll';

const text = (name: string) => ({ name, label: name, type: 'text' as const });
const systems = [
  {
    key: 'desk',
    tag: 'DK',
    name: 'Desk',
    hue: 10,
    recordTypes: [
      {
        name: 'job',
        label: 'job',
        plural: 'jobs',
        idField: 'id',
        nameField: 'name',
        fields: [text('id'), text('name')],
      },
    ],
  },
];
const surroundings: Omit<Surroundings, 'rules'> = { catalog: new Catalog(systems), tables: new Map() };

function rule(id: string, applies: readonly string[], guard = ''): Rule {
  return {
    id,
    version: 1,
    name: id,
    note: '',
    trigger: { system: 'desk', recordType: 'job', kinds: ['updated'], watched: [] },
    guard,
    finds: [],
    actions: applies.map((each) => ({ kind: 'apply' as const, rule: each, target: 'record' })),
  };
}

const compiled = (rules: readonly Rule[], known?: Compilations, changed: readonly string[] = []) =>
  compileAll({
    rules,
    surroundings,
    known,
    changedRules: new Set(changed),
    changedTables: new Set(),
  });

/** The ids of the rules that were compiled anew. */
const anew = (before: Compilations, after: Compilations) =>
  [...after.byRule].filter(([id, result]) => before.byRule.get(id) !== result).map(([id]) => id);

test('a rule that changed is compiled anew, and so is each that applies it, also through another', () => {
  const rules = [rule('a', ['b']), rule('b', ['c']), rule('c', []), rule('d', [])];
  const before = compiled(rules);
  expect(anew(before, compiled(rules, before))).toEqual([]);
  expect(anew(before, compiled(rules, before, ['c']))).toEqual(['a', 'b', 'c']);
  expect(anew(before, compiled(rules, before, ['d']))).toEqual(['d']);
});

test('a rule that applies one which is gone is compiled anew', () => {
  const rules = [rule('a', ['b']), rule('b', []), rule('c', [])];
  const before = compiled(rules);
  expect(anew(before, compiled([rules[0] as Rule, rules[2] as Rule], before))).toEqual(['a']);
});

test('rules that apply each other end, and forty rules that each apply the next one twice do too', () => {
  const circle = [rule('a', ['b']), rule('b', ['a'])];
  const first = compiled(circle);
  expect(anew(first, compiled(circle, first, ['b']))).toEqual(['a', 'b']);
  // Followed path by path, this would take 2^40 steps.
  const ladder = Array.from({ length: 40 }, (_none, at) =>
    rule(`r${at}`, at === 39 ? [] : [`r${at + 1}`, `r${at + 1}`]),
  );
  const before = compiled(ladder);
  expect(anew(before, compiled(ladder, before, ['r39']))).toHaveLength(40);
});

test('a rule that does not compile is told with its reason, and does not run', () => {
  const { told } = compiled([rule('good', []), rule('bad', [], 'nmae = "x"')]);
  expect(told.rules.map(({ rule: { id } }) => id)).toEqual(['good']);
  expect(told.broken.map(({ rule: { id }, because }) => [id, because])).toEqual([
    ['bad', expect.stringContaining('nmae')],
  ]);
});
