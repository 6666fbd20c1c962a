import { rule } from '../engine/testHarbour';
import { readBundles, rulesIn } from './bundle';

const id = '0192f3a0-0001-7000-8000-000000000001';
const bundle = { vastKnot: 2, rules: [{ id, published: true, rule: rule([]) }] };

test('bundles are put together in the order in which they are read', () => {
  const other = { vastKnot: 2, rules: [{ id: id.replace(/1$/, '2'), published: false, rule: rule([]) }] };
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

test.each([3, 0, '2', null])('a format that nobody knows is refused: %p', (vastKnot) => {
  const read = readBundles([{ file: 'a.json', json: { vastKnot } }]);
  expect(!read.ok && read.problems).toMatchObject([{ at: 'vastKnot' }]);
});

test('a file of the first format is read, and told what is other in it', () => {
  const sending = { ...rule([]), actions: [{ kind: 'send', endpoint: 'post', type: 'told', parts: [] }] };
  const json = { vastKnot: 1, rules: [{ id, published: true, rule: sending }] };
  const read = readBundles([{ file: 'old.json', json }]);
  if (!read.ok) throw new Error(JSON.stringify(read.problems));
  expect(read.bundle.addresses).toEqual([{ key: 'post', name: 'post' }]);
  expect(read.upgraded).toEqual([
    {
      file: 'old.json',
      changes: [
        'It is of format 1, and is read as format 2.',
        'The outside addresses that its rules send to are named: post.',
        'Its rules stand in no folder.',
      ],
    },
  ]);
});

test('several files that send to one address name it each', () => {
  const json = { vastKnot: 2, addresses: [{ key: 'post', name: 'Post' }] };
  const read = readBundles([
    { file: 'a.json', json },
    { file: 'b.json', json },
  ]);
  expect(read.ok && read.bundle.addresses).toEqual([{ key: 'post', name: 'Post' }]);
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
