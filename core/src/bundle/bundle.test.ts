import { rule } from '../engine/testHarbour';
import { readBundles, rulesIn } from './bundle';

const id = '0192f3a0-0001-7000-8000-000000000001';
const bundle = { vastKnot: 1, rules: [{ id, published: true, rule: rule([]) }] };

test('bundles are put together in the order in which they are read', () => {
  const other = { vastKnot: 1, rules: [{ id: id.replace(/1$/, '2'), published: false, rule: rule([]) }] };
  const read = readBundles([
    { file: 'a.json', json: bundle },
    { file: 'b.json', json: other },
  ]);
  expect(read.ok && rulesIn(read.bundle).map((each) => each.id)).toEqual([id, id.replace(/1$/, '2')]);
});

test('unknown keys are refused with their file and place', () => {
  const json = { ...bundle, rules: [{ ...bundle.rules[0], rule: { ...rule([]), colour: 'red' } }] };
  expect(readBundles([{ file: 'a.json', json }])).toEqual({
    ok: false,
    problems: [
      { file: 'a.json', at: 'rules/0/rule/colour', message: '"rules[0].rule.colour" is not allowed.' },
    ],
  });
});

test('another version of the format is refused', () => {
  const read = readBundles([{ file: 'a.json', json: { vastKnot: 2 } }]);
  expect(!read.ok && read.problems).toMatchObject([{ at: 'vastKnot' }]);
});

test('what stands in two files is refused, and both are named', () => {
  const read = readBundles([
    { file: 'a.json', json: bundle },
    { file: 'b.json', json: bundle },
  ]);
  expect(!read.ok && read.problems).toEqual([
    { file: 'b.json', at: '', message: `The rule “${id}” is also in a.json.` },
  ]);
});
