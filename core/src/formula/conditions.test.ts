import fc from 'fast-check';
import { conditionTests, fromConditions, toConditions, valuesOf, type Condition } from './conditions';
import { FormulaError } from './error';
import { parse } from './parser';
import { print } from './print';

const canonical = (formula: string) => {
  const node = parse(formula);
  return node instanceof FormulaError ? `not a formula: ${formula}` : print(node);
};

test.each<[string, Condition]>([
  ['status = "open"', { kind: 'test', test: 'is', subject: 'status', values: ['"open"'] }],
  ['name <> code', { kind: 'test', test: 'is not', subject: 'name', values: ['code'] }],
  ['size >= 5', { kind: 'test', test: 'is at least', subject: 'size', values: ['5'] }],
  ['AND(size >= 5, size <= 9)', { kind: 'test', test: 'is between', subject: 'size', values: ['5', '9'] }],
  ['ONEOF(status, "a", "b")', { kind: 'test', test: 'is one of', subject: 'status', values: ['"a"', '"b"'] }],
  ['ISBLANK(address.town)', { kind: 'test', test: 'is blank', subject: 'address.town', values: [] }],
  ['NOT(ISBLANK(code))', { kind: 'test', test: 'is not blank', subject: 'code', values: [] }],
  ['CHANGED(status)', { kind: 'test', test: 'changed', subject: 'status', values: [] }],
  [
    'AND(CHANGED(status), status = "x")',
    { kind: 'test', test: 'changed to', subject: 'status', values: ['"x"'] },
  ],
  [
    'AND(CHANGED(a.b), before.a.b = "x", a.b = "y")',
    { kind: 'test', test: 'changed from … to', subject: 'a.b', values: ['"x"', '"y"'] },
  ],
  [
    'CONTAINS(LOWER(name), "ferry")',
    { kind: 'test', test: 'contains', subject: 'LOWER(name)', values: ['"ferry"'] },
  ],
  [
    'OR(status = "open", NOT(OR(ISBLANK(code), size > 3)))',
    {
      kind: 'group',
      of: 'any',
      parts: [
        { kind: 'test', test: 'is', subject: 'status', values: ['"open"'] },
        {
          kind: 'group',
          of: 'none',
          parts: [
            { kind: 'test', test: 'is blank', subject: 'code', values: [] },
            { kind: 'test', test: 'is more than', subject: 'size', values: ['3'] },
          ],
        },
      ],
    },
  ],
  ['REGEXTEST(name, "^a")', { kind: 'formula', text: 'REGEXTEST(name, "^a")' }],
  ['', { kind: 'group', of: 'all', parts: [] }],
])('%s is read, and written again', (formula, condition) => {
  expect(toConditions(formula)).toEqual(condition);
  expect(canonical(fromConditions(condition))).toBe(canonical(formula));
});

test('what is no formula yet is no tree of conditions', () => {
  expect(toConditions('status = ')).toBeUndefined();
});

test('a group without parts says nothing', () => {
  const empty = { kind: 'group', of: 'any', parts: [] } as const;
  expect(
    fromConditions({ kind: 'group', of: 'all', parts: [empty, { kind: 'formula', text: 'TRUE' }] }),
  ).toBe('AND(TRUE)');
  expect(fromConditions(empty)).toBe('');
});

const subject = fc.constantFrom('name', 'address.town', "'Home Port'", 'LEFT(name, 2)', 'size');
const value = fc.constantFrom('"x"', '5', 'code', 'before.name', 'size + 1', 'a = b');
const oneTest: fc.Arbitrary<Condition> = fc
  .tuple(fc.constantFrom(...conditionTests.map(({ name }) => name)), subject, value, value)
  .map(([name, about, a, b]): Condition => {
    const many = valuesOf(name);
    const values = many === 'many' ? [a, b] : [a, b].slice(0, many);
    const plain = name.startsWith('changed') && about.includes('(') ? 'name' : about;
    return { kind: 'test', test: name, subject: plain, values };
  });
const condition = fc.letrec<{ tree: Condition }>((tie) => ({
  tree: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    oneTest,
    fc.constant<Condition>({ kind: 'formula', text: 'REGEXTEST(name, "^a")' }),
    fc.record({
      kind: fc.constant('group' as const),
      of: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
      parts: fc.array(tie('tree'), { minLength: 1, maxLength: 3 }),
    }),
  ),
})).tree;

test('any tree of conditions, written as a formula and read again, says the same', () => {
  fc.assert(
    fc.property(condition, (tree) => {
      const formula = fromConditions(tree);
      const back = toConditions(formula);
      // Some groups are also tests that say more: all of “changed” and “is” is “changed to”.
      expect(back && canonical(fromConditions(back))).toBe(canonical(formula));
    }),
  );
});

test('a test that is written is read as that test', () => {
  fc.assert(
    fc.property(oneTest, (one) => {
      const back = toConditions(fromConditions(one));
      expect(back).toMatchObject({ kind: 'test', ...(one.kind === 'test' && { test: one.test }) });
    }),
  );
});
