import fc from 'fast-check';
import { readTableCsv, readTableFile } from './tableCsv';
import type { TableDefinition } from './table';

const definition: TableDefinition = {
  name: 'Zones',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
    { name: 'crates', label: 'Crates', type: 'integer', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
};
async function* inParts(text: string, sizes: readonly number[]): AsyncGenerator<string> {
  let at = 0;
  for (const size of sizes) {
    yield text.slice(at, at + size);
    at += size;
  }
  yield text.slice(at);
  await Promise.resolve();
}

const cell = fc.oneof(
  fc.constantFrom('', 'NOR', 'a "b"', 'c,d', 'two\nlines', 'two\r\nlines', 'Skarvøy', '🚢'),
  fc.string({ maxLength: 6 }),
);
const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;

test('a file that comes in parts is read as one that comes whole, wherever it is cut', async () => {
  const line = fc.tuple(cell, cell, fc.oneof(fc.constant('4'), fc.constant('x'), fc.constant('')));
  await fc.assert(
    fc.asyncProperty(
      fc.array(line, { maxLength: 8 }),
      fc.constantFrom('\r\n', '\n', '\r'),
      fc.array(fc.integer({ min: 0, max: 9 }), { maxLength: 20 }),
      fc.boolean(),
      async (lines, end, sizes, ends) => {
        const all = [['port', 'zone', 'crates'], ...lines].map((cells) => cells.map(quoted).join(','));
        const text = all.join(end) + (ends ? end : '');
        expect(await readTableFile(definition, inParts(text, sizes))).toEqual(readTableCsv(definition, text));
      },
    ),
    { numRuns: 400 },
  );
});

test.each([
  ['', 'The file is empty.'],
  ['\n\n', 'The file is empty.'],
  ['port,zone,crates\nA,"b"c,1\n', /^This is not CSV in line \d+/],
  ['port,zone,crates\nA,"b,1\n', /^This is not CSV in line \d+/],
])('%j is refused as it is whole', async (text, message) => {
  const whole = readTableCsv(definition, text);
  const parts = await readTableFile(definition, inParts(text, [3, 4, 5, 6]));
  expect(!whole.ok && whole.problems[0]?.message).toMatch(message);
  expect(!parts.ok && parts.problems[0]?.message).toMatch(message);
});
