import fc from 'fast-check';
import {
  leafFields,
  linesIn,
  writePolicies,
  type Field,
  type MappingLine,
  type WriteAction,
} from '@vast-knot/core';
import { dropOnto } from '../drag/dropOnto';
import { accepts } from '../drag/useLineDrag';
import { line, ruleWith } from '../../work/testWorld';
import {
  moveLine,
  pasteLines,
  removeLines,
  setLine,
  setPolicies,
  withoutBlankLines,
  withoutReference,
} from './lineEdits';
import { linesFromText, linesToText } from './linesText';
import { groupLeaves, sortLeaves } from './rowOrder';

const action = (...lines: MappingLine[]): WriteAction => ({ kind: 'write', target: 'record', lines });
const field = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name.toUpperCase(),
  type: 'text',
  ...more,
});
const leaves = leafFields([
  field('zone'),
  field('id', { readOnly: true }),
  field('name', { required: true }),
  field('address', { type: 'object', fields: [field('town', { type: 'choice' })] }),
]);

test('a target field has one line: setting it again changes that one', () => {
  const once = setLine(action(), 'zone', { formula: 'a' });
  expect(setLine(once, 'zone', { policy: 'never clear' }).lines).toEqual([
    { field: 'zone', formula: 'a', policy: 'never clear' },
  ]);
});

test('lines are removed, emptied ones go when the row is left, and policies are set together', () => {
  const both = action(line('zone', 'a'), line('name', '  '));
  expect(removeLines(both, new Set(['zone'])).lines).toEqual([line('name', '  ')]);
  expect(withoutBlankLines(both).lines).toEqual([line('zone', 'a')]);
  const whole = action(line('zone', 'a'));
  expect(withoutBlankLines(whole)).toBe(whole);
  expect(
    setPolicies(both, new Set(['zone', 'name']), 'target blank').lines.map(({ policy }) => policy),
  ).toEqual(['target blank', 'target blank']);
});

test('a natural key is taken off without touching the rest of the line', () => {
  const reference = { recordType: 'person', field: 'name', none: 'keep', several: 'first' } as const;
  expect(withoutReference(action(line('zone', 'a', { reference })), 'zone').lines).toEqual([
    line('zone', 'a'),
  ]);
});

test('a line that is dragged onto a field with a line changes places with it', () => {
  const moved = moveLine(action(line('zone', 'a'), line('name', 'b')), 'zone', 'name');
  expect(moved.lines).toEqual([line('name', 'a'), line('zone', 'b')]);
});

test('dropping a value makes it the formula of the field, with quotes where a name needs them', () => {
  const rule = ruleWith([line('zone', 'old')]);
  const dropped = dropOnto(
    rule,
    { kind: 'value', path: 'Home Port' },
    { kind: 'field', action: 0, field: 'zone' },
  );
  expect(linesIn(dropped.actions[0])).toEqual([line('zone', "'Home Port'")]);
  const elsewhere = dropOnto(
    rule,
    { kind: 'line', action: 1, field: 'zone' },
    { kind: 'field', action: 0, field: 'name' },
  );
  expect(elsewhere).toBe(rule);
});

test('an action that is dropped onto another one stands there, and is no drop for a field or a find', () => {
  const rule = { ...ruleWith([line('zone', 'a')]), actions: ruleWith([]).actions };
  const [first] = ruleWith([line('zone', 'a')]).actions;
  const [second] = rule.actions;
  if (!first || !second) throw new Error('there are actions');
  const two = { ...rule, actions: [first, second] };
  const dragged = { kind: 'part', of: 'actions', at: 0, called: 'action 1' } as const;
  expect(dropOnto(two, dragged, { kind: 'part', of: 'actions', at: 1 }).actions).toEqual([second, first]);
  for (const place of [
    { kind: 'part', of: 'finds', at: 0 },
    { kind: 'field', action: 0, field: 'zone' },
  ] as const) {
    expect(accepts(place, dragged)).toBe(false);
    expect(dropOnto(two, dragged, place)).toBe(two);
  }
});

test('pasted lines take the place of those there are; what the target cannot be given is named', () => {
  const pasted = pasteLines(
    action(line('zone', 'old')),
    [line('zone', 'new'), line('id', 'x'), line('harbour', 'y')],
    leaves,
  );
  expect(pasted.action.lines).toEqual([line('zone', 'new')]);
  expect([pasted.taken, pasted.unknown]).toEqual([['zone'], ['id', 'harbour']]);
});

test('copying and pasting loses nothing', () => {
  const word = fc.stringMatching(/^[a-z][a-z0-9.]{0,10}$/);
  const reference = fc.record({
    recordType: word,
    field: word,
    none: fc.constantFrom('blank' as const, 'keep' as const, 'fail' as const),
    several: fc.constantFrom('fail' as const, 'first' as const),
  });
  const anyLine = fc.record(
    { field: word, formula: word, policy: fc.constantFrom(...writePolicies), reference },
    { requiredKeys: ['field', 'formula', 'policy'] },
  );
  fc.assert(
    fc.property(fc.array(anyLine, { minLength: 1, maxLength: 6 }), (lines) => {
      expect(linesFromText(linesToText(lines))).toEqual(lines);
    }),
  );
});

test('two columns of a spreadsheet are lines, other text is not', () => {
  expect(linesFromText('zone\tUPPER(town)\r\nname\tname\r\n')).toEqual([
    line('zone', 'UPPER(town)'),
    line('name', 'name'),
  ]);
  expect(linesFromText('just a sentence')).toBeUndefined();
  expect(linesFromText('')).toBeUndefined();
});

describe('the order of the fields', () => {
  const made = new Set(['zone']);
  const paths = (of: ReturnType<typeof sortLeaves>) => of.map(({ path }) => path);

  test('has those with a formula first, then required ones, then read-only ones last', () => {
    expect(paths(sortLeaves(leaves, 'made', made))).toEqual(['zone', 'name', 'address.town', 'id']);
    expect(paths(sortLeaves(leaves, 'schema', made))).toEqual(['zone', 'id', 'name', 'address.town']);
    expect(paths(sortLeaves(leaves, 'name', made))).toEqual(['address.town', 'id', 'name', 'zone']);
  });

  test('is grouped by state or by type, without empty groups', () => {
    const sorted = sortLeaves(leaves, 'made', made);
    expect(groupLeaves(sorted, 'state', made).map((group) => [group.title, group.leaves.length])).toEqual([
      ['With a formula', 1],
      ['Required, without a formula', 1],
      ['Without a formula', 1],
      ['Read-only in its system', 1],
    ]);
    expect(groupLeaves(sorted, 'type', made).map(({ title }) => title)).toEqual(['text', 'choice']);
    expect(groupLeaves(sorted, 'none', made)).toEqual([{ title: '', leaves: sorted }]);
  });
});
