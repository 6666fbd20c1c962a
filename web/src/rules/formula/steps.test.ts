import fc from 'fast-check';
import { compile, FormulaError, type Chain, type Scope } from '@vast-knot/core';
import { surroundings } from '../../work/testWorld';
import { paintedParts } from './paintedParts';
import {
  argumentNames,
  chainOf,
  movedStep,
  stepChoices,
  stepMeaning,
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
  for (const { key } of stepChoices) {
    const formula = withStep(chain('name'), key, scope);
    const name = key.startsWith('&') ? '&' : key;
    expect([key, chain(formula).steps.at(-1)?.name]).toEqual([key, name]);
    const compiled = compile(formula, scope);
    const wrong = compiled.ok
      ? []
      : compiled.errors.filter(({ code }) => code === 'syntax' || code === 'name');
    expect([name, wrong.map(({ message }) => message)]).toEqual([name, []]);
  }
});

test('text is joined behind or before, chosen by condition, and the first of several taken', () => {
  expect(withStep(chain('TRIM(name)'), '& behind', scope)).toBe('TRIM(name) & " "');
  expect(withStep(chain('TRIM(name)'), '& before', scope)).toBe('" " & TRIM(name)');
  expect(withStep(chain('name'), 'IF', scope)).toBe('IF(TRUE, "", name)');
  expect(withStep(chain('name'), 'COALESCE', scope)).toBe('COALESCE(name, "")');
  const joined = chain('"Quay " & name');
  expect(joined.steps.map(stepMeaning)).toEqual(['Puts a text or another value before it.']);
  expect(withArgument(joined, 0, 0, '"Pier "')).toBe('"Pier " & name');
  expect(movedStep(chain('UPPER(name) & "x"'), 1, -1)).toBe('UPPER(name & "x")');
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
  const names = (formula: string) =>
    argumentNames(chain(formula).steps.at(-1) ?? { name: '', args: [], before: 0 });
  expect(names('LEFT(name, 4)')).toEqual(['length']);
  expect(names('SUBSTITUTE(name, "a", "b")')).toHaveLength(3);
  expect(names('TABLE("Zones", name, "zone")')[0]).toBe('"table"');
  expect(names('name & "!"')).toEqual(['text or value']);
  expect(names('IF(name = "a", "b", name)')).toEqual(['condition', 'then']);
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
