import fc from 'fast-check';
import { FormulaError } from './error';
import { formulaFunctions } from './functions';
import { explainChain, flowsInto, joining, printChain, stepWords, toChain } from './chain';
import { compile } from './compile';
import { exampleEnv, exampleScope } from './testScope';
import { parse } from './parser';
import { print } from './print';
import type { Node } from './tree';

function tree(source: string): Node {
  const node = parse(source);
  if (node instanceof FormulaError) throw new Error(node.message);
  return node;
}

const shown = (source: string) => {
  const { source: start, steps } = toChain(tree(source));
  return [print(start), ...steps.map(stepWords)].join(' → ');
};

test.each([
  ['UPPER(LEFT(TRIM(name), 4))', 'name → trim → left 4 → upper'],
  [
    'TABLE("Ports to tariff zones", UPPER(name), "zone")',
    'name → upper → table "Ports to tariff zones" "zone"',
  ],
  ['EACH(SPLIT(name, ","), UPPER(item))', 'name → split "," → each UPPER(item)'],
  ['FIND("@", TRIM(name))', 'name → trim → find "@"'],
  ['name', 'name'],
  ['LEFT(name & " " & phone, 10)', 'name → behind it " " → behind it phone → left 10'],
  ['"Quay " & UPPER(name) & "!"', 'name → upper → before it "Quay " → behind it "!"'],
  ['"a" & "b"', '"a" → behind it "b"'],
  ['name & (phone & "x")', 'name → behind it phone & "x"'],
  ['IF(crates > 1, UPPER(name), name)', 'name → if crates > 1, UPPER(name) instead'],
  ['IF(crates > 1, UPPER(name), "none")', 'IF(crates > 1, UPPER(name), "none")'],
  ['IF(crates > 1, UPPER(name))', 'IF(crates > 1, UPPER(name))'],
  ['TRIM(COALESCE(name, phone, "none"))', 'name → if blank, phone, else "none" → trim'],
  ['IFERROR(VALUE(name), 0)', 'name → value → if it fails, 0'],
  ['TEXTJOIN(", ", TRUE, name, phone)', 'TEXTJOIN(", ", TRUE, name, phone)'],
  ['ROUND(VALUE(LEFT(name, 2)), 1)', 'name → left 2 → value → round 1'],
])('%s is the chain %s', (source, chain) => expect(shown(source)).toBe(chain));

test('going to chips and back loses nothing, for every example of every function', () => {
  for (const { examples } of formulaFunctions) {
    for (const { formula } of examples) expect(printChain(toChain(tree(formula)))).toBe(print(tree(formula)));
  }
});

test('going to chips and back loses nothing, for chains of any functions', () => {
  const flowing = formulaFunctions.map(({ name }) => name).filter((name) => flowsInto(name) !== undefined);
  const argument = fc.constantFrom('4', '"a"', 'phone', 'crates * 2', '{1, 2}');
  fc.assert(
    fc.property(
      fc.constantFrom('name', 'name & "x"', '{1, 2}', '-crates', "'Home Port'"),
      fc.array(fc.tuple(fc.constantFrom(...flowing), fc.array(argument, { maxLength: 3 })), { maxLength: 6 }),
      (source, steps) => {
        const text = steps.reduce<string>((inner, [name, args]) => {
          const at = Math.min(flowsInto(name) ?? 0, args.length);
          return `${name}(${[...args.slice(0, at), inner, ...args.slice(at)].join(', ')})`;
        }, source);
        expect(printChain(toChain(tree(text)))).toBe(print(tree(text)));
      },
    ),
  );
});

test('each step of a chain is explained with its value', () => {
  const compiled = compile('UPPER(LEFT(TRIM(name), 4))', exampleScope);
  if (!compiled.ok) throw new Error('does not compile');
  const { source, steps } = explainChain(compiled.formula, {
    ...exampleEnv,
    record: { name: '  North  Skerry ' },
  });
  expect(source).toEqual({ text: 'name', value: '  North  Skerry ' });
  expect(steps.map(({ name, value }) => [name, value])).toEqual([
    ['TRIM', 'North Skerry'],
    ['LEFT', 'Nort'],
    ['UPPER', 'NORT'],
  ]);
});

test('each text that is joined is a step with its own value', () => {
  const compiled = compile('"Quay " & TRIM(name) & "!"', exampleScope);
  if (!compiled.ok) throw new Error('does not compile');
  const { steps } = explainChain(compiled.formula, { ...exampleEnv, record: { name: ' Skerry ' } });
  expect(steps.map(({ name, value }) => [name, value])).toEqual([
    ['TRIM', 'Skerry'],
    [joining, 'Quay Skerry'],
    [joining, 'Quay Skerry!'],
  ]);
});

test('joining texts and choosing, in any nesting, go to chips and back', () => {
  const { node: formulas } = fc.letrec<{ node: string }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 4 },
      fc.constantFrom('name', '"a"', 'crates', '1 + 2', 'crates = 1', '{1, 2}'),
      fc.tuple(tie('node'), tie('node')).map(([a, b]) => `(${a}) & (${b})`),
      fc.tuple(tie('node'), tie('node'), tie('node')).map(([a, b, c]) => `IF(${a}, ${b}, ${c})`),
      fc.tuple(tie('node'), tie('node')).map(([a, b]) => `COALESCE(${a}, ${b})`),
      tie('node').map((a) => `UPPER(${a})`),
    ),
  }));
  fc.assert(fc.property(formulas, (text) => expect(printChain(toChain(tree(text)))).toBe(print(tree(text)))));
});

test('the value that flows through a table is explained too', () => {
  const compiled = compile('LOWER(TABLE("Ports to tariff zones", UPPER("nor"), "zone"))', exampleScope);
  if (!compiled.ok) throw new Error('does not compile');
  const { source, steps } = explainChain(compiled.formula, exampleEnv);
  expect([source.value, ...steps.map(({ value }) => value)]).toEqual(['nor', 'NOR', 'N2', 'n2']);
});
