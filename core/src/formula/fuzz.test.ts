/**
 * Nothing typed takes the computation down: formulas made by the grammar, by mending examples at random, and of any characters, over
 * records that hold what nobody expects. None throws, and none takes longer than a person would wait.
 *
 * `npm run fuzz -- 200000` makes more; FUZZ_SEED makes the same ones again.
 */
import { explainChain, toChain } from './chain';
import { compile } from './compile';
import { completionsAt, signatureAt } from './complete';
import { toConditions } from './conditions';
import { encodeFor } from './encode';
import { FormulaError } from './error';
import { explain } from './explain';
import { formulaFunctions } from './functions';
import { longestText } from './longestText';
import { mayBeBlank } from './mayBeBlank';
import { numberRange } from './numberRange';
import { parse } from './parser';
import { possibleValues } from './possibleValues';
import { print } from './print';
import type { Env } from './scope';
import { Random } from '../model/testRandom';
import { slowness } from './testPace';
import { exampleEnv, exampleScope } from './testScope';

const runs = Number(process.env['FUZZ_RUNS'] ?? 5000);
const seed = Number(process.env['FUZZ_SEED'] ?? Date.now() % 1_000_000_007);
/** The longest that one formula may take with everything that is asked of it, in milliseconds of a machine of usual pace. */
const patience = 250;
/** So often it may take longer before the formula is slow, and not the machine. */
const tried = 6;

const long = 'lorem ipsum '.repeat(4000);
/** What a field may hold when its system does not keep to its word. */
const hostile: readonly unknown[] = [
  null,
  undefined,
  '',
  ' ',
  0,
  -0,
  1e308,
  -1e-308,
  Number.MAX_SAFE_INTEGER + 2,
  '9'.repeat(300),
  `1e${'9'.repeat(4)}`,
  true,
  'TRUE',
  [],
  [null, '', []],
  Array.from({ length: 12_000 }, (_none, at) => at),
  Array.from({ length: 300 }, () => long),
  {},
  { town: { country: ['x'] } },
  { ['__proto__']: 1 },
  long,
  '\u0000\uFFFF\uD800',
  'e\u0301\u200D\u202E',
  '2026-02-30',
  '-271821-04-20',
  '9999999-12-31T00:00:00Z',
  '🚢'.repeat(500),
  '{"a":'.repeat(2000),
  '('.repeat(3000),
];
const names = [
  'name',
  'phone',
  'credit',
  'crates',
  'since',
  'seen',
  'status',
  'address',
  "'Home Port'",
  'before.name',
];
const numbers = [
  '0',
  '-1',
  '2',
  '0.1',
  '1e300',
  '1e-300',
  '1e999',
  '9007199254740993',
  '1000',
  '10001',
  '2958466',
  '.5',
  '1e10000000',
];
const texts = [
  '',
  ' ',
  'x',
  '""',
  '$1$&$`',
  '(a+)+$',
  '[a-z]*',
  '%',
  'yyyy',
  '0.00',
  'toString',
  'GB',
  'EUR',
  '2026-03-09',
  '\\',
  'é',
];

function value(random: Random, depth: number): string {
  const kind = random.below(depth <= 0 ? 4 : 12);
  const inner = () => value(random, depth - 1);
  switch (kind) {
    case 0:
      return random.of(names);
    case 1:
      return random.of(numbers);
    case 2:
      return `"${random.of(texts).replaceAll('"', '""')}"`;
    case 3:
      return random.of(['TRUE', 'FALSE', 'item', 'target.note', 'party.id', 'event.time']);
    case 4:
      return `(${inner()} ${random.of(['+', '-', '*', '/', '^', '&', '=', '<>', '<', '>='])} ${inner()})`;
    case 5:
      return `{${Array.from({ length: random.below(4) }, inner).join(', ')}}`;
    case 6:
      return `${random.of(['-', '+'])}${inner()}${random.of(['', '%', '%%'])}`;
    default: {
      const { name } = random.of(formulaFunctions);
      return `${name}(${Array.from({ length: random.below(5) }, inner).join(', ')})`;
    }
  }
}

const examples = formulaFunctions.flatMap((entry) => entry.examples.map(({ formula }) => formula));
const pieces = [
  '(',
  ')',
  ',',
  '"',
  "'",
  '{',
  '}',
  '%',
  '&',
  '.',
  '-',
  '1e9',
  ' ',
  '\n',
  '\uD83D',
  'REPT("x", 999999)',
  'EACH(',
];

function mended(random: Random): string {
  let text = random.of(examples);
  for (let times = 1 + random.below(4); times > 0; times--) {
    const at = random.below(text.length + 1);
    const cut = random.below(4);
    const put = random.of([random.of(pieces), random.of(examples), text.slice(at, at + 12), '']);
    text = text.slice(0, at) + put + text.slice(at + cut);
  }
  return text;
}

function characters(random: Random): string {
  const one = () =>
    random.of([
      '(',
      ')',
      '"',
      '%',
      '-',
      '+',
      '1',
      'a',
      ',',
      '{',
      '.',
      '\u0000',
      '\uDFFF',
      'é',
      '=',
      '^',
      ' ',
    ]);
  if (random.below(20) > 0) return Array.from({ length: random.below(60) }, one).join('');
  // Now and then one piece many times over, which is what overflows a stack.
  return (
    random.of(['%', '(', '-', '1+', 'a&', '{', 'NOT(', '1,', '"', 'a.', '1^']).repeat(random.below(4900)) +
    one()
  );
}

function made(random: Random): string {
  const kind = random.below(10);
  if (kind < 5) return value(random, 1 + random.below(5));
  return kind < 8 ? mended(random) : characters(random);
}

function envOf(random: Random): Env {
  const record = Object.fromEntries(
    ['name', 'phone', 'credit', 'crates', 'since', 'seen', 'status', 'address', 'Home Port'].map((name) => [
      name,
      random.of(hostile),
    ]),
  );
  return {
    ...exampleEnv,
    record: record as Env['record'],
    before: random.of([null, record]) as Env['before'],
  };
}

/** Asks of a formula everything that the interface and the engine ask. */
function askAll(source: string, env: Env, random: Random): void {
  const position = random.below(source.length + 1);
  completionsAt(source, position, exampleScope);
  signatureAt(source, position);
  toConditions(source);
  const node = parse(source);
  if (!(node instanceof FormulaError)) {
    print(node);
    toChain(node);
  }
  const result = compile(source, exampleScope);
  if (!result.ok) {
    for (const error of result.errors) expect(error.message).not.toBe('');
    return;
  }
  const { formula } = result;
  const got = formula.run(env);
  explain(formula, env);
  explainChain(formula, env);
  mayBeBlank(formula.tree);
  longestText(formula.tree, exampleScope.tables);
  possibleValues(formula.tree, exampleScope.tables);
  numberRange(formula.tree);
  for (const type of ['text', 'decimal', 'multichoice', 'boolean', 'date'] as const)
    encodeFor({ name: 'f', label: 'F', type, maxLength: 10 }, got);
}

test(`${runs} formulas from the seed ${seed} neither throw nor take long`, () => {
  const slow: string[] = [];
  const threw: string[] = [];
  for (let at = 0; at < runs; at++) {
    const random = new Random(seed + at);
    const source = made(random);
    const env = envOf(random);
    const once = () => {
      const begun = performance.now();
      askAll(source, env, new Random(at));
      return performance.now() - begun;
    };
    try {
      // What is slow once may have been the machine; what is slow each time is the formula.
      let tries = 0;
      while (tries < tried && once() > patience && once() > patience * slowness()) tries++;
      if (tries === tried) slow.push(`${seed + at}: ${source.slice(0, 300)}`);
    } catch (thrown) {
      threw.push(`${seed + at}: ${source.slice(0, 300)} — ${String(thrown)}`);
    }
  }
  expect({ threw: threw.slice(0, 20), slow: slow.slice(0, 20) }).toEqual({ threw: [], slow: [] });
});

test.each([
  ['a number of ten million digits', 'LEN(1e10000000) > 0'],
  ['nine thousand percent signs', `1${'%'.repeat(9000)}`],
  ['a sum of 4,900 terms', `1${'+1'.repeat(4900)}`],
  ['brackets without end', '('.repeat(9999)],
  ['a format that is the name of a method', 'TEXT(1, "toString")'],
  ['the last day of the calendar', 'WORKDAY(DATE(275760, 9, 13), 1)'],
  ['ten thousand long texts', 'TEXTJOIN("", FALSE, EACH(crates, REPT("x", 999999)))'],
  ['a list of a list of a list', 'SUM(EACH(crates, SUM(EACH(crates, SUM(crates)))))'],
  ['powers of powers', '((9^999)^999)^999'],
  ['dates for each of each of many', 'EACH(crates, EACH(crates, DATE(2026, 1, item)))'],
  [
    'a telephone number for each of each of many',
    'EACH(crates, EACH(crates, PHONE("01632 960 1" & item, "GB")))',
  ],
  ['a power of many digits for each of many', 'EACH(crates, (item + 0.123456789) ^ 100)'],
  ['a pattern for each of many', 'EACH(crates, REGEXREPLACE(name, "(.*)(.*)(.*)", "$1$2$3$1$2$3"))'],
])('%s ends with a value or an error, at once', (_what, source) => {
  const crates = Array.from({ length: 10_000 }, (_none, at) => at);
  const env = { ...exampleEnv, record: { ...exampleEnv.record, crates, name: long } };
  const scope = {
    ...exampleScope,
    record: exampleScope.record.map((field) =>
      field.name === 'crates' ? { ...field, type: 'multichoice' as const } : field,
    ),
  };
  const once = () => {
    const begun = performance.now();
    const result = compile(source, scope);
    if (result.ok) {
      result.formula.run(env);
      explain(result.formula, env);
    }
    return performance.now() - begun;
  };
  // The best of some, beside what the machine needs for plain work: it may be busy with other tests.
  let best = Infinity;
  for (let tries = 0; tries < tried && best >= 1000; tries++) best = Math.min(best, once() / slowness());
  expect(best).toBeLessThan(1000);
});
