import type { FileRow } from './format';
import { fileFormat, type FileSettings } from './index';
import type { ResultRow } from './result';
import { writeTagged } from './tagged';
import { at, inParts } from './testFile';

const heads = { headAt: 1, headLines: 1 };
const part = (number: string) =>
  writeTagged({ leader: '00000nam a2200000   4500', fields: [{ tag: '001', data: number }] }, (text) =>
    new TextEncoder().encode(text),
  );

function taggedParts(...numbers: readonly string[]): Uint8Array {
  return new Uint8Array(
    numbers.flatMap((number) => {
      const written = part(number);
      return written.ok ? [...written.bytes] : [];
    }),
  );
}

const files: readonly (readonly [
  settings: FileSettings,
  file: Uint8Array | string,
  number: string,
  says: string,
  ids: string,
])[] = [
  [
    { kind: 'csv', encoding: 'utf-8', delimiter: ';', quote: '"', ...heads },
    'number;name\nSC-1;Bolt; x\nSC-2;"Ring; Ø"\n',
    'number',
    'Result',
    'Result ids',
  ],
  [
    { kind: 'json', encoding: 'utf-8', list: 'a.parts' },
    '{"a":{"parts":[1,{"number":"SC-2"}]}}',
    '/number',
    '/Result',
    '/Result ids',
  ],
  [
    { kind: 'json lines', encoding: 'utf-8' },
    'nothing\n{"number":"SC-2"}\n',
    '/number',
    '/Result',
    '/Result ids',
  ],
  [
    { kind: 'xml', encoding: 'utf-8', each: 'list/part' },
    '<list><part number="SC-1"/><part number="SC-2"><name>a &amp; b</name></part></list>',
    '@number',
    'result',
    'result/@ids',
  ],
  [{ kind: 'tagged', encoding: 'utf-8' }, taggedParts('SC-1', 'SC-2'), '001', '999$a', '999$b'],
];

test.each(files)(
  'what became of each record stands in a file like the one that came: %j',
  async (settings, file, number, says, ids) => {
    const format = fileFormat(settings);
    const rows: FileRow[] = [];
    for await (const some of format.read(inParts(file), settings)) rows.push(...some);
    expect(rows).toHaveLength(2);
    async function* results(): AsyncGenerator<ResultRow> {
      for (const [n, row] of rows.entries())
        yield await Promise.resolve({
          place: row.place,
          value: row.ok ? row.value : null,
          text: row.ok ? '' : row.text,
          says: n === 0 ? 'Not taken: “why” & how.' : 'Created a unit.',
          ids: n === 0 ? '' : 'UN900',
        });
    }
    const written: Uint8Array[] = [];
    for await (const bytes of format.result(results(), settings)) written.push(bytes);
    const again: FileRow[] = [];
    for await (const some of format.read(inParts(new Uint8Array(Buffer.concat(written)), 11), settings))
      again.push(...some);
    expect(again.map((row) => at(format, says, row))).toEqual(['Not taken: “why” & how.', 'Created a unit.']);
    expect(at(format, ids, again[1])).toBe('UN900');
    expect(at(format, number, again[1])).toBe('SC-2');
  },
);
