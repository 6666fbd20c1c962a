/** Short ways that save time must give what the long ways give. */
import fc from 'fast-check';
import { encodeFor } from '../formula/encode';
import { completionsAt, signatureAt } from '../formula/complete';
import { exampleScope } from '../formula/testScope';
import { Exact } from '../formula/value';
import { Catalog, type Field, type System } from '../model/system';
import type { Rule } from './rule';
import { TableIndex } from '../table/tableIndex';
import { compileRule } from './compileRule';
import { afterPolicy, keptBecause } from './policy';
import { writePolicies } from './actions/mappingLine';

const text = (name: string): Field => ({ name, label: name, type: 'text' });
const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 0,
  recordTypes: ['ship', 'berth'].map((name) => ({
    name,
    label: name,
    plural: name,
    idField: 'id',
    nameField: 'id',
    fields: ['id', 'name', 'port'].map(text),
  })),
};
const formulas = ['name', 'UPPER(name)', 'nmae', 'LEFT(', 'berth.port', 'before.name', '"x" & port', ''];
const rule = (guard: string, finds: boolean, lines: readonly string[]): Rule => ({
  id: 'r',
  version: 0,
  name: 'r',
  note: '',
  trigger: { system: 's', recordType: 'ship', kinds: ['updated'], watched: [] },
  guard,
  finds: finds
    ? [
        {
          alias: 'berth',
          system: 's',
          recordType: 'berth',
          match: [{ field: 'id', is: 'equal', formula: 'id' }],
          none: 'stop',
          several: 'fail',
        },
      ]
    : [],
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: lines.map((formula, at) => ({ field: at === 0 ? 'name' : 'port', formula, policy: 'always' })),
    },
  ],
});

test('a rule compiled with formulas kept from before has the same mistakes as one compiled anew', () => {
  const kept = new Map();
  const catalog = new Catalog([system]);
  const mistakes = (compiled: ReturnType<typeof compileRule>) =>
    compiled.ok ? [] : compiled.problems.map(({ at, error }) => `${at}: ${error.message}`);
  fc.assert(
    fc.property(
      fc.constantFrom('', 'name = "x"', 'berth.port = "x"'),
      fc.boolean(),
      fc.array(fc.constantFrom(...formulas), { minLength: 1, maxLength: 2 }),
      (guard, finds, lines) => {
        const edited = rule(guard, finds, lines);
        const anew = compileRule(edited, { catalog, tables: new Map() });
        const fromKept = compileRule(edited, { catalog, tables: new Map(), compiled: kept });
        expect(mistakes(fromKept)).toEqual(mistakes(anew));
      },
    ),
  );
});

test('whole numbers are stored, or refused, as exact decimals of the same value are', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -50, max: 50 }),
      fc.option(fc.integer({ min: -20, max: 20 }), { nil: undefined }),
      fc.option(fc.integer({ min: -20, max: 20 }), { nil: undefined }),
      (value, min, max) => {
        const field: Field = {
          name: 'n',
          label: 'N',
          type: 'integer',
          ...(min !== undefined && { min }),
          ...(max !== undefined && { max }),
        };
        expect(encodeFor(field, value)).toEqual(encodeFor(field, new Exact(value)));
      },
    ),
  );
});

test('a key of a plain table is found by the short way as by the long one', () => {
  const key = fc.oneof(
    fc.constantFrom('NOR', 'nor', 'ẞ', 'SS', 'e\u0301', 'é', '5', ''),
    fc.integer(),
    fc.boolean(),
  );
  const rows = fc.uniqueArray(fc.constantFrom('NOR', 'ẞ', 'é', '5', 'HOL'), { maxLength: 5 });
  fc.assert(
    fc.property(
      rows,
      key,
      fc.constantFrom('exact' as const, 'caseless' as const),
      (keys, sought, matching) => {
        const index = new TableIndex({
          name: 'T',
          columns: [
            { name: 'k', label: 'K', type: 'text', key: true },
            { name: 'v', label: 'V', type: 'text', key: false },
          ],
          rows: keys.map((each) => [each, `v ${each}`]),
          matching,
          onMiss: 'blank',
        });
        expect(index.findPlain(sought)).toBe(index.find([sought]));
      },
    ),
  );
});

test('completion and signatures have an answer for any text and any place in it', () => {
  const piece = fc.constantFrom(
    'UPPER(',
    'TABLE("',
    'name',
    '.',
    '"',
    "'",
    ', ',
    ')',
    '{',
    '}',
    ' & ',
    'address',
    '= ',
    'é',
    '😀',
  );
  fc.assert(
    fc.property(
      fc.oneof(
        fc.string(),
        fc.array(piece, { maxLength: 12 }).map((all) => all.join('')),
      ),
      fc.nat(60),
      (formula, at) => {
        const position = Math.min(at, formula.length);
        const { from } = completionsAt(formula, position, exampleScope);
        expect(from).toBeGreaterThanOrEqual(0);
        expect(from).toBeLessThanOrEqual(position);
        const help = signatureAt(formula, position);
        if (help) expect(help.at).toBeLessThan(help.parts.length);
      },
    ),
  );
});

test('what a policy would leave is what stands there, or what the formula gives, or both together', () => {
  const json = fc.oneof(
    fc.constant(null),
    fc.constantFrom('a', 'b', ''),
    fc.array(fc.constantFrom('x', 'y'), { maxLength: 2 }),
  );
  fc.assert(
    fc.property(fc.constantFrom(...writePolicies), json, json, (policy, held, given) => {
      const left = afterPolicy({ name: 'f', label: 'F', type: 'multichoice' }, policy, held, given);
      const blank = given === null || given === '' || (Array.isArray(given) && given.length === 0);
      if (keptBecause(policy, held, blank) !== undefined) expect(left).toEqual(held);
      else if (policy === 'never clear' && Array.isArray(held))
        expect(left).toEqual(expect.arrayContaining(held));
      else expect(left).toEqual(given);
    }),
  );
});
