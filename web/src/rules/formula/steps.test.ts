import fc from 'fast-check';
import { compile, FormulaError, type Chain, type Scope } from '@vast-knot/core';
import { surroundings } from '../../work/testWorld';
import { paintedParts } from './paintedParts';
import {
  argumentNames,
  chainOf,
  movedStep,
  stepFunctions,
  withArgument,
  withoutStep,
  withStep,
} from './stepEdits';

const chain = (formula: string): Chain => {
  const read = chainOf(formula);
  if (!read) throw new Error('cannot be read');
  return read;
};
const scope: Scope = {
  record: [{ name: 'name', label: 'Name', type: 'text' }],
  found: new Map(),
  tables: surroundings.tables,
};

test('a step is added at the end, with what it cannot do without', () => {
  expect(withStep(chain('TRIM(name)'), 'UPPER', scope)).toBe('UPPER(TRIM(name))');
  expect(withStep(chain('name'), 'SUBSTITUTE', scope)).toBe('SUBSTITUTE(name, "", "")');
  expect(withStep(chain('name'), 'TABLE', scope)).toBe('TABLE("Zones", name, "zone")');
  expect(withStep(chain('SPLIT(name, ",")'), 'EACH', scope)).toBe('EACH(SPLIT(name, ","), item)');
});

test('every step that can be added can be read back', () => {
  for (const { name } of stepFunctions) {
    const formula = withStep(chain('name'), name, scope);
    expect([name, chain(formula).steps.at(-1)?.name]).toEqual([name, name]);
    const compiled = compile(formula, scope);
    const wrong = compiled.ok
      ? []
      : compiled.errors.filter(({ code }) => code === 'syntax' || code === 'name');
    expect([name, wrong.map(({ message }) => message)]).toEqual([name, []]);
  }
});

test('steps are moved and removed', () => {
  const three = chain('UPPER(LEFT(TRIM(name), 4))');
  expect(movedStep(three, 1, 1)).toBe('LEFT(UPPER(TRIM(name)), 4)');
  expect(movedStep(three, 1, -1)).toBe('UPPER(TRIM(LEFT(name, 4)))');
  expect(withoutStep(three, 1)).toBe('UPPER(TRIM(name))');
});

test('an argument is changed as a formula, and what cannot be read is refused with its reason', () => {
  const left = chain('LEFT(name, 4)');
  expect(withArgument(left, 0, 0, 'LEN(name) - 1')).toBe('LEFT(name, LEN(name) - 1)');
  expect(withArgument(left, 0, 0, '4 +')).toBeInstanceOf(FormulaError);
});

test('the arguments of a step have names, without the one that flows through', () => {
  expect(argumentNames('LEFT', 1)).toEqual(['length']);
  expect(argumentNames('SUBSTITUTE', 2)).toHaveLength(3);
  expect(argumentNames('TABLE', 2)[0]).toBe('"table"');
});

test('text that is no formula has no steps', () => expect(chainOf('LEFT(')).toBeUndefined());

test('paint covers the text whole and in order, whatever it is', () => {
  fc.assert(
    fc.property(
      fc.oneof(fc.string(), fc.constantFrom('UPPER(name) & " x"', "'Home Port' * 2%")),
      (formula) => {
        const parts = paintedParts(formula);
        expect(parts.map(({ start, end }) => formula.slice(start, end)).join('')).toBe(formula);
      },
    ),
  );
  expect(paintedParts('UPPER(name)').map(({ paint }) => paint)).toEqual(['function', 'sign', 'name', 'sign']);
});
