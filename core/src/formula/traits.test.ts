/** What functions say of themselves holds for what they give: over random records, for every function that says something. */
import fc from 'fast-check';
import { TableIndex } from '../table/tableIndex';
import type { Field } from '../model/system';
import { compile, type Formula } from './compile';
import { FormulaError } from './error';
import { formulaFunctions } from './functions';
import { longestText } from './longestText';
import { mayBeBlank } from './mayBeBlank';
import { numberRange } from './numberRange';
import { possibleValues } from './possibleValues';
import type { Env, Scope } from './scope';
import { exampleEnv } from './testScope';
import { isList, toText, type Value } from './value';

const options = (...values: string[]) => values.map((value) => ({ value, label: value }));
const fields: readonly Field[] = [
  { name: 'name', label: 'Name', type: 'text', maxLength: 14 },
  { name: 'code', label: 'Code', type: 'text', maxLength: 6, required: true },
  { name: 'status', label: 'Status', type: 'choice', options: options('open', 'closed') },
  { name: 'labels', label: 'Labels', type: 'multichoice', options: options('cold', 'dry', 'tall') },
  { name: 'marks', label: 'Marks', type: 'multichoice', options: options('cold', 'dry'), required: true },
  { name: 'rank', label: 'Rank', type: 'integer', min: -3, max: 9, required: true },
  { name: 'crates', label: 'Crates', type: 'integer', min: 2, max: 5, required: true },
  {
    name: 'lines',
    label: 'Lines',
    type: 'list',
    required: true,
    fields: [
      { name: 'name', label: 'Name', type: 'text', maxLength: 4, required: true },
      { name: 'kg', label: 'Kg', type: 'integer', min: 1, max: 9, required: true },
      { name: 'kind', label: 'Kind', type: 'choice', options: options('cold', 'dry') },
    ],
  },
];
const zones = new TableIndex({
  name: 'Zones',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  rows: [
    ['open', 'N2'],
    ['closed', 'S11'],
  ],
  matching: 'exact',
  onMiss: 'blank',
});
const tables = new Map([['Zones', zones]]);
const scope: Scope = { record: fields, found: new Map(), tables };

/** Formulas in which each function that says something of its text or number is used. */
const texts = [
  'UPPER(name)',
  'REPLACE(name, 2, 3, code)',
  'CONCATENATE(name, code)',
  'PADLEFT(code, 9, "0")',
  'PADRIGHT(name, 4)',
  'REPT(code, 3)',
  'TEXTJOIN("-", TRUE, labels)',
  'LOWER(name)',
  'PROPER(name)',
  'LEFT(name)',
  'LEFT(name, 5)',
  'LEFT(name, crates)',
  'RIGHT(name, 4)',
  'MID(name, 3, 6)',
  'TRIM(name)',
  'CLEAN(name)',
  'TEXTBEFORE(name, " ")',
  'TEXTAFTER(name, " ")',
  'TEXTAFTER(name, " ", -1)',
  'REGEXEXTRACT(name, "[a-z]+")',
  'PHONE("01632 960 120", "GB")',
  'PHONECOUNTRY("+441632960120")',
  'EMAILDOMAIN("desk@" & code & ".example")',
  'REGISTRABLEDOMAIN("post.fair-isle.co.uk")',
  'COUNTRY("GB", "alpha-3")',
  'UUID5(name, "dns")',
  'UPPER(LEFT(name, 3)) & "-" & RIGHT(code, 2)',
  'IF(rank > 2, name, code)',
  'IF(rank > 2, "high", status)',
  'COALESCE(name, code, "none")',
  'IFERROR(REGEXEXTRACT(name, "z+"), "nothing")',
  'IFS(rank > 4, "far", rank > 0, code)',
  'SWITCH(status, "open", "O", "closed", "CL", "?")',
  'CHOOSE(crates - 1, "two", "three", "four", "fivefold")',
  'TABLE("Zones", status, "zone")',
  'TEXTJOIN("-", TRUE, name, code)',
  'EACH(labels, UPPER(item))',
  'KEEP(labels, item <> "dry")',
  'UNIQUE(labels)',
  'SORT(labels)',
  'IFS(rank > 4, "far", TRUE, code)',
  'SWITCH(code, "a", "A", "b", "B")',
  'SWITCH(status, "open", code, "other")',
  'KEEP(marks, item <> "dry")',
  'MID(code, 9, 2)',
  'lines.name',
  'lines.kind',
  'TEXTJOIN("-", TRUE, lines.name)',
  'EACH(lines, UPPER(item.name))',
  'EACH(lines, item.kind)',
  'FIRST(labels, item <> "dry")',
  'FIRST(lines, item.kg > 2, item.name)',
  'FIRST(lines, item.kg > 2, item.kind)',
  'JSONTEXT(OBJECT("n", name, "k", FIRST(lines, TRUE, item.kg)))',
  'OBJECT("s", status)',
  'ONEOF(status, "open", labels)',
];
const numbers = [
  'LEN(name)',
  'ABS(rank)',
  'ABS(-crates)',
  '-rank',
  'MIN(rank, crates)',
  'MIN(rank, LEN(name))',
  'MAX(rank, crates)',
  'MAX(1, MIN(4, rank))',
  'ROUND(rank)',
  'ROUND(rank / 2)',
  'INT(rank)',
  'INT(crates)',
  'COUNTA(labels)',
  'IF(rank > 2, rank, crates)',
  'SUM(lines.kg)',
  'MAX(lines.kg)',
  'MIN(SUM(lines.kg), 4)',
  'FIRST(lines, item.kg > 4, item.kg)',
];

// Letters whose other case is one character as well: what UPPER says of its length leaves the others aside.
const letter = fc.constantFrom(...'abcdefghijkmnoprstuvwxyzæøåéñABCDEFGHÆØÅ0123456789  .-🚢⚓');
const word = (most: number) => fc.array(letter, { maxLength: most }).map((letters) => letters.join(''));
const record = fc.record({
  name: fc.option(word(14)),
  code: word(6)
    .filter((code) => code.trim() !== '')
    .map((code) => code.trim()),
  status: fc.option(fc.constantFrom('open', 'closed')),
  labels: fc.option(fc.subarray(['cold', 'dry', 'tall'])),
  marks: fc.subarray(['cold', 'dry'], { minLength: 1 }),
  rank: fc.integer({ min: -3, max: 9 }),
  crates: fc.integer({ min: 2, max: 5 }),
  lines: fc.array(
    fc.record({
      name: word(4)
        .filter((name) => name.trim() !== '')
        .map((name) => name.trim()),
      kg: fc.integer({ min: 1, max: 9 }),
      kind: fc.option(fc.constantFrom('cold', 'dry')),
    }),
    { minLength: 1, maxLength: 4 },
  ),
});
const envOf = (held: Env['record']): Env => ({ ...exampleEnv, record: held, before: held });

function formula(source: string): Formula {
  const compiled = compile(source, scope);
  if (!compiled.ok) throw new Error(`${source}: ${compiled.errors.map(({ message }) => message).join(' ')}`);
  return compiled.formula;
}

const isBlank = (value: Value) => value === null || value === '' || (isList(value) && value.length === 0);
const elements = (value: Value): readonly Value[] => (isList(value) ? value : isBlank(value) ? [] : [value]);

/** Calls `holds` with what a formula gives for many records; errors say nothing. */
function forRecords(compiled: Formula, holds: (value: Value) => void): void {
  fc.assert(
    fc.property(record, (held) => {
      const value = compiled.run(envOf(held));
      if (!(value instanceof FormulaError)) holds(value);
    }),
    { numRuns: 60 },
  );
}

test('every function that says something of its text or number is among these formulas', () => {
  const saying = formulaFunctions.filter(
    ({ longest, values, gives, range, blank }) => longest ?? values ?? gives ?? range ?? blank,
  );
  expect(saying.length).toBeGreaterThan(30);
  const used = [...texts, ...numbers].join(' ');
  expect(saying.map(({ name }) => name).filter((name) => !used.includes(`${name}(`))).toEqual([]);
});

test.each(texts)('%s gives no text longer than it says', (source) => {
  const compiled = formula(source);
  const longest = longestText(compiled.tree, tables);
  forRecords(compiled, (value) => {
    for (const one of elements(value))
      expect([...toText(one)].length).toBeLessThanOrEqual(longest ?? Number.POSITIVE_INFINITY);
  });
});

test('of most of them the bound is known', () => {
  const unknown = texts.filter((source) => longestText(formula(source).tree, tables) === undefined);
  expect(unknown).toEqual([
    'TEXTJOIN("-", TRUE, labels)',
    'TEXTJOIN("-", TRUE, lines.name)',
    'JSONTEXT(OBJECT("n", name, "k", FIRST(lines, TRUE, item.kg)))',
    'OBJECT("s", status)',
    'ONEOF(status, "open", labels)',
  ]);
});

test.each(texts)('%s gives one of the texts that it names, where it names them', (source) => {
  const compiled = formula(source);
  const values = possibleValues(compiled.tree, tables);
  forRecords(compiled, (value) => {
    for (const one of elements(value)) if (values) expect([...values]).toContain(toText(one));
  });
});

test.each([...texts, ...numbers])('%s is blank only where it says that it may be', (source) => {
  const compiled = formula(source);
  const may = mayBeBlank(compiled.tree);
  forRecords(compiled, (value) => expect(isBlank(value) && !may).toBe(false));
});

test.each(numbers)('%s lies within its range', (source) => {
  const compiled = formula(source);
  const { min = -Infinity, max = Infinity } = numberRange(compiled.tree);
  forRecords(compiled, (value) => {
    for (const one of elements(value)) {
      expect(Number(toText(one))).toBeGreaterThanOrEqual(min);
      expect(Number(toText(one))).toBeLessThanOrEqual(max);
    }
  });
});

test.each([
  ['LEN(name)', 0, Infinity],
  ['ABS(rank)', 0, Infinity],
  ['MIN(rank, crates)', -3, 5],
  ['MAX(rank, crates)', 2, 9],
  ['MAX(1, MIN(4, rank))', 1, 4],
  ['-rank', -9, 3],
])('%s is known to lie from %d to %d', (source, least, most) => {
  const { min = -Infinity, max = Infinity } = numberRange(formula(source).tree);
  expect([min, max]).toEqual([least, most]);
});

test('what cannot be blank is not feared to be', () => {
  const sure = [
    'IFS(rank > 4, "far", TRUE, code)',
    'SWITCH(status, "open", code, "other")',
    'COALESCE(name, code)',
  ];
  expect(sure.filter((source) => mayBeBlank(formula(source).tree))).toEqual([]);
});
