import { updated } from '../engine/testHarbour';
import { readSamples } from './readSamples';

const event = updated({ status: 'open' }, { status: 'new' });
const sample = { id: 'anything', name: 'Opened', note: '', event, records: [] };

test.each([
  ['a sample', JSON.stringify(sample), ['Opened']],
  ['an event alone', JSON.stringify(event), ['company C1 updated']],
  ['a list of both', JSON.stringify([sample, event]), ['Opened', 'company C1 updated']],
  ['a bundle', JSON.stringify({ vastKnot: 1, samples: [sample] }), ['Opened']],
  ['JSON lines', `${JSON.stringify(event)}\n\n${JSON.stringify(sample)}\n`, ['company C1 updated', 'Opened']],
])('%s is read', (_what, text, names) => {
  const read = readSamples(text);
  expect(read.ok && read.drafts.map(({ name }) => name)).toEqual(names);
});

test.each([
  ['{', 'It is not JSON'],
  ['{"a":1}\n{', 'Line 2 is not JSON'],
  [JSON.stringify({ ...event, kind: 'sneezed' }), 'at kind: '],
  [JSON.stringify([event, { ...sample, colour: 'red' }]), 'number 2: at colour: '],
  [`${JSON.stringify(event)}\n${JSON.stringify({ ...event, ref: {} })}`, 'line 2: at ref/system: '],
  ['[]', 'There is no sample in it.'],
])('%j is refused with its place', (text, sentence) => {
  const read = readSamples(text);
  expect(!read.ok && read.problems.join(' ')).toContain(sentence);
});
