import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { compile, type Formula } from './compile';
import { FormulaError } from './error';
import { explain } from './explain';
import { formulaFunctions } from './functions';
import { parse } from './parser';
import { print } from './print';
import { exampleEnv, exampleScope } from './testScope';
import type { Node } from './tree';
import { toText, type Value } from './value';

function formula(source: string): Formula {
  const compiled = compile(source, exampleScope);
  if (!compiled.ok) throw new Error(`${source}: ${compiled.errors.map((error) => error.message).join(' ')}`);
  return compiled.formula;
}

const give = (source: string): Value => formula(source).run(exampleEnv);

/** The result as a person reads it, with errors by their code. */
function shown(source: string): string {
  const value = give(source);
  if (value === null) return 'blank';
  return value instanceof FormulaError ? `error: ${value.code}` : toText(value);
}

function problem(source: string): FormulaError {
  const compiled = compile(source, exampleScope);
  if (compiled.ok) throw new Error(`${source} was accepted`);
  const [first] = compiled.errors;
  if (!first) throw new Error('no error was given');
  return first;
}

describe('the examples of every function', () => {
  const examples = formulaFunctions.flatMap((entry) =>
    entry.examples.map((example) => ({ ...example, name: entry.name })),
  );
  test.each(examples)('$name: $formula gives $gives', ({ formula: source, gives }) => {
    if (gives === 'blank' || gives.startsWith('error: ')) expect(shown(source)).toBe(gives);
    else expect(give(`(${source}) = ${gives}`)).toBe(true);
  });

  test('there is one entry for each name', () => {
    expect(new Set(formulaFunctions.map((entry) => entry.name)).size).toBe(formulaFunctions.length);
  });
});

describe('operators', () => {
  // OASIS OpenFormula (ODF 1.3 part 4), 5.5 and 6.4; section numbers and values from memory.
  test.each([
    ['1 + 2 * 3', '7'],
    ['(1 + 2) * 3', '9'],
    ['-2 ^ 2', '4'],
    ['2 ^ 3 ^ 2', '64'],
    ['10 - 4 - 3', '3'],
    ['50%', '0.5'],
    ['200 * 10%', '20'],
    ['"a" & 1 + 1', 'a2'],
    ['1 = 1.0', 'TRUE'],
    ['"a" <> "b"', 'TRUE'],
    ['2 >= 2', 'TRUE'],
  ])('%s gives %s', (source, result) => expect(shown(source)).toBe(result));

  test.each([
    ['0.1 + 0.2', '0.3'],
    ['0.1 * 3 = 0.3', 'TRUE'],
    ['credit + 0.2', '0.3'],
    ['9007199254740991 + 1', '9007199254740992'],
    ['9007199254740993 - 1', '9007199254740992'],
    ['1 / 3 * 3', '0.9999999999999999999999999999999999'],
  ])('decimals are exact: %s gives %s', (source, result) => expect(shown(source)).toBe(result));

  test('dates move by days and differ by days', () => {
    expect(shown('since + 1')).toBe('2024-03-01');
    expect(shown('DATE(2024, 3, 1) - since')).toBe('1');
  });

  test('comma and semicolon both separate arguments', () => {
    expect(shown('LEFT("Skerry"; 2)')).toBe(shown('LEFT("Skerry", 2)'));
  });

  test('dividing by zero is a value with a place', () => {
    expect(give('1 + 4 / 0')).toMatchObject({ code: 'divide', place: { start: 4, end: 9 } });
  });
});

describe('blank', () => {
  test.each([
    ['UPPER(before.address.town)', 'blank'],
    ['before.credit + 1', 'blank'],
    ['before.credit < 1', 'blank'],
    ['"[" & before.address.town & "]"', '[]'],
    ['IF(before.credit > 1, "big", "small")', 'small'],
    ['before.credit = ""', 'TRUE'],
    ['before.credit <> 3', 'TRUE'],
    ['COALESCE(before.credit, 5)', '5'],
  ])('%s gives %s', (source, result) => expect(shown(source)).toBe(result));
});

describe('names', () => {
  test.each([
    ['address.town', 'Northport'],
    ['record.phone', '01632 960 120'],
    ['before.phone', '01632 960 119'],
    ['target.note', 'call first'],
    ['party.id', 'P-7'],
    ["'Home Port'", 'NOR'],
    ['event.kind', 'updated'],
    ['seen', '2026-03-09T22:30:00Z'],
  ])('%s is %s', (source, result) => expect(shown(source)).toBe(result));

  test('a misspelt field names the nearest one, and its place', () => {
    expect(problem('UPPER(phnoe)')).toMatchObject({
      code: 'name',
      message: 'The triggering record has no field “phnoe”. Did you mean “phone”?',
      place: { start: 6, end: 11 },
    });
  });

  test('a misspelt function names the nearest one', () => {
    expect(problem('UPER(phone)').message).toBe('There is no function UPER. Did you mean “UPPER”?');
  });

  test.each([
    'constructor',
    'address.__proto__',
    'toString',
    'event.constructor',
    'party.hasOwnProperty',
    'before.__proto__.x',
  ])('no name reaches into prototypes: %s', (source) => expect(problem(source).code).toBe('name'));

  test('a formula knows the fields and tables it reads', () => {
    const { uses, tables } = formula('TABLE("Ports to tariff zones", before.name, "zone") & address.town');
    expect(uses).toEqual([
      { of: 'before', path: 'name' },
      { of: 'record', path: 'address.town' },
    ]);
    expect(tables).toEqual(['Ports to tariff zones']);
  });
});

describe('types', () => {
  test.each([
    ['UPPER(phone)', 'text'],
    ['crates + 1', 'integer'],
    ['crates + credit', 'decimal'],
    ['crates / 2', 'decimal'],
    ['since + 7', 'date'],
    ['phone = "x"', 'boolean'],
    ['IF(TRUE, crates, credit)', 'decimal'],
    ['IF(TRUE, status)', 'choice'],
  ])('%s is of type %s', (source, kind) => expect(formula(source).type.kind).toBe(kind));

  test.each([
    ['crates + phone', '“+” takes numbers, and this is text. “&” joins text.'],
    ['phone = crates', 'Values of type text and integer cannot be compared.'],
    ['YEAR(phone)', '“date” of YEAR takes date, and this is text.'],
    ['LEFT()', 'LEFT is written LEFT(text, [length]).'],
    ['IF(phone, 1, 2)', 'A condition is yes or no, and this is text.'],
    ['CHANGED("phone")', 'CHANGED takes names of fields: CHANGED(phone).'],
  ])('%s is refused', (source, message) => expect(problem(source).message).toBe(message));

  test('every mistake is reported, each once', () => {
    const compiled = compile('UPPER(nme) & LOWER(phne)', exampleScope);
    expect(compiled.ok ? [] : compiled.errors.map((error) => error.code)).toEqual(['name', 'name']);
  });
});

describe('text that is no formula', () => {
  test.each([
    ['', 'The formula is empty.', 0],
    ['1 +', 'The formula ends too early: a value is missing.', 3],
    ['LEFT("a"', 'A “)” or a comma is missing.', 8],
    ['"abc', 'This text is not closed: a " is missing at its end.', 0],
    ['a b', '“b” does not belong here; perhaps an operator or a comma is missing before it.', 2],
    ['1 ! 2', 'The character “!” has no meaning here.', 2],
    ['* 2', 'A value is missing before “*”.', 0],
  ])('%s', (source, message, start) => {
    const error = parse(source);
    expect(error).toMatchObject({ code: 'syntax', message, place: { start } });
  });

  test.each([
    ['nested brackets', '('.repeat(5000) + '1' + ')'.repeat(4000)],
    ['signs', `${'-'.repeat(9000)}1`],
    ['nested calls', `${'ABS('.repeat(1500)}1${')'.repeat(1500)}`],
    ['long text', `"${'x'.repeat(20_000)}"`],
  ])('hostile depth or length ends in an error, not in a crash: %s', (_name, source) => {
    expect(parse(source)).toMatchObject({ code: 'limit' });
  });
});

describe('explain', () => {
  test('gives the value of every part', () => {
    const explanation = explain(formula('UPPER(LEFT(TRIM(name), 4))'), exampleEnv);
    const chain: string[] = [];
    for (let part: typeof explanation | undefined = explanation; part; part = part.parts[0]) {
      chain.push(`${part.text} → ${toText(part.value)}`);
    }
    expect(chain).toEqual([
      'UPPER(LEFT(TRIM(name), 4)) → NORT',
      'LEFT(TRIM(name), 4) → Nort',
      'TRIM(name) → North Skerry Fish',
      'name → North Skerry Fish',
    ]);
  });
});

describe('laws', () => {
  const place = { start: 0, end: 0 };
  const leaf: fc.Arbitrary<Node> = fc.oneof(
    fc.string().map((value): Node => ({ kind: 'text', value: value.normalize('NFC'), place })),
    fc.nat().map((value): Node => ({ kind: 'number', value: String(value), place })),
    fc.boolean().map((value): Node => ({ kind: 'boolean', value, place })),
    fc
      .array(fc.constantFrom('phone', 'address', 'Home Port', "o'clock", 'true', 'ø'), {
        minLength: 1,
        maxLength: 3,
      })
      .map((path): Node => ({ kind: 'name', path, place })),
  );
  const { tree } = fc.letrec<{ tree: Node }>((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      leaf,
      fc
        .tuple(
          fc.constantFrom('+', '-', '*', '/', '^', '&', '=', '<>', '<', '<=', '>', '>='),
          tie('tree'),
          tie('tree'),
        )
        .map(([operator, left, right]) => ({ kind: 'binary', operator, left, right, place }) as Node),
      fc
        .tuple(fc.constantFrom('+', '-'), tie('tree'))
        .map(([operator, of]) => ({ kind: 'sign', operator, of, place }) as Node),
      tie('tree').map((of) => ({ kind: 'percent', of, place }) as Node),
      fc.array(tie('tree'), { maxLength: 3 }).map((items) => ({ kind: 'list', items, place }) as Node),
      fc
        .array(tie('tree'), { maxLength: 3 })
        .map((args) => ({ kind: 'call', name: 'TEXTJOIN', args, place }) as Node),
    ),
  }));

  const withoutPlaces = (node: Node): unknown =>
    JSON.parse(JSON.stringify(node, (key, value: unknown) => (key === 'place' ? undefined : value)));

  test('printing a tree and reading it again gives the same tree', () => {
    fc.assert(
      fc.property(tree, (node) => {
        const again = parse(print(node));
        if (again instanceof FormulaError) throw new Error(`${print(node)}: ${again.message}`);
        expect(withoutPlaces(again)).toEqual(withoutPlaces(node));
      }),
    );
  });

  test('any text is either a formula or one sentence; nothing is thrown', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (source) => {
        const compiled = compile(source, exampleScope);
        if (compiled.ok) compiled.formula.run(exampleEnv);
        else expect(compiled.errors[0]?.message).toMatch(/[.?]$/);
      }),
    );
  });

  test('whole numbers are added exactly, beyond what floating point holds', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: 0n, max: 10n ** 30n }),
        fc.bigInt({ min: 0n, max: 10n ** 30n }),
        (a, b) => {
          expect(shown(`${a} + ${b}`)).toBe(String(a + b));
        },
      ),
    );
  });
});

test('a date-time keeps its instant whatever its zone', () => {
  const value = give('seen');
  expect(value instanceof Temporal.Instant && value.epochMilliseconds).toBe(Date.UTC(2026, 2, 9, 22, 30));
});
