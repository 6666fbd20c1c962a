import { XMLBuilder } from 'fast-xml-parser';
import fc from 'fast-check';
import { at, rowsOf } from './testFile';
import { xmlFile, type XmlSettings } from './xmlFile';

const settings: XmlSettings = { kind: 'xml', encoding: 'utf-8', each: 'list/part' };
const file = `<?xml version="1.0" encoding="UTF-8"?>
<list made="2026-05-01">
  <part number="7"><name>Bolt &amp; nut</name><price unit="EUR">1.20</price><price unit="NOK">14</price><note><![CDATA[a < b]]></note></part>
  <part number="8"><name>Ring</name></part>
</list>`;
const beginning = (text: string) => ({
  name: 'parts.xml',
  bytes: new TextEncoder().encode(text),
  whole: true,
});

test('the elements of one path are the records', async () => {
  expect(xmlFile.recognise(beginning(file))).toEqual(settings);
  const rows = await rowsOf(xmlFile, settings, file);
  expect(rows).toMatchObject([
    { ok: true, at: 1, place: 'record 1', value: { name: 'part', attributes: { number: '7' } } },
    { ok: true, at: 2, value: { attributes: { number: '8' } } },
  ]);
});

test.each([
  ['@number', '7'],
  ['name', 'Bolt & nut'],
  ['price', ['1.20', '14']],
  ['price[2]', '14'],
  ['price[2]/@unit', 'NOK'],
  ['price/@unit', ['EUR', 'NOK']],
  ['note', 'a < b'],
  ['nothing/here', null],
])('%s gives %j', async (address, gives) => {
  const [row] = await rowsOf(xmlFile, settings, file);
  expect(at(xmlFile, address, row)).toEqual(gives);
});

test.each([
  ['a//b', '“a//b” is no path of elements: “” is no name, as in line[2]/@unit.'],
  ['@a/b', '“@a/b” goes on after an attribute, which holds nothing further.'],
  ['a[0]', '“a[0]”: the first element is [1].'],
])('%s is refused: %s', (address, because) => {
  expect(xmlFile.address(address)).toEqual({ ok: false, because });
});

test('every part that is shown has an address that gives it', async () => {
  const [row] = await rowsOf(xmlFile, settings, file);
  if (row?.ok !== true) throw new Error('The record cannot be read.');
  const shown = xmlFile.shown(row.value).flatMap((each) => [each, ...(each.parts ?? [])]);
  expect(shown.map(({ address }) => address)).toEqual([
    '@number',
    'name',
    'price[1]',
    'price[1]/@unit',
    'price[2]',
    'price[2]/@unit',
    'note',
  ]);
  for (const { address = '', text } of shown) expect(at(xmlFile, address, row)).toBe(text);
});

// The attack is described in many places as "billion laughs"; XML 1.0, section 4.4, is what would unfold it.
test('entities do not unfold: a file that declares them is one sentence, and takes no time', async () => {
  const laughs = Array.from(
    { length: 10 },
    (_, n) => `<!ENTITY lol${n + 1} "${`&lol${n};`.repeat(10)}">`,
  ).join('\n');
  const bomb = `<?xml version="1.0"?><!DOCTYPE list [<!ENTITY lol0 "lol">${laughs}]><list><part><name>&lol10;</name></part></list>`;
  expect(await rowsOf(xmlFile, settings, bomb, 100)).toMatchObject([
    { ok: false, place: 'record 1, line 10', because: expect.stringContaining('undefined entity') as string },
  ]);
});

test('a file of the machine is never read through an entity', async () => {
  const reading =
    '<!DOCTYPE list [<!ENTITY x SYSTEM "file:///etc/passwd">]><list><part><name>&x;</name></part></list>';
  expect(await rowsOf(xmlFile, settings, reading)).toMatchObject([{ ok: false }]);
});

test('elements that stand too deep in one another are refused', async () => {
  const deep = `<list><part>${'<a>'.repeat(5000)}${'</a>'.repeat(5000)}</part></list>`;
  expect(await rowsOf(xmlFile, settings, deep, 1000)).toMatchObject([
    { ok: false, because: expect.stringContaining('more than 100 deep') as string },
  ]);
});

test('a file that is cut off, or holds other records, says so', async () => {
  expect(await rowsOf(xmlFile, settings, file.slice(0, -30))).toMatchObject([
    { ok: true },
    {
      ok: false,
      place: 'record 2, line 4',
      because: expect.stringContaining('no XML that can be read') as string,
    },
  ]);
  expect(await rowsOf(xmlFile, { ...settings, each: 'list/piece' }, file)).toMatchObject([
    { ok: false, because: 'There is no element “list/piece”.' },
  ]);
});

test('the encoding that a file declares is taken', () => {
  const declared = '<?xml version="1.0" encoding="ISO-8859-1"?><list><part/><part/></list>';
  expect(xmlFile.recognise(beginning(declared))).toMatchObject({ encoding: 'windows-1252' });
});

test('law: what another library writes is read, with all of its values', async () => {
  // Characters that XML 1.0 does not have are nobody's to write; a carriage return becomes a line feed (section 2.11).
  const text = fc
    .stringMatching(/^[a-zà-ÿ<>&"' ]{1,8}$/)
    .map((each) => each.trim())
    .filter((each) => each !== '');
  const parts = fc.array(fc.record({ number: text, name: text }), { minLength: 1, maxLength: 5 });
  const builder = new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@' });
  await fc.assert(
    fc.asyncProperty(parts, fc.integer({ min: 1, max: 60 }), async (wanted, size) => {
      const xml = builder.build({
        list: { part: wanted.map(({ number, name }) => ({ '@number': number, name })) },
      });
      const rows = await rowsOf(xmlFile, settings, xml, size);
      expect(rows.map((row) => [at(xmlFile, '@number', row), at(xmlFile, 'name', row)])).toEqual(
        wanted.map(({ number, name }) => [number, name]),
      );
    }),
    { numRuns: 200 },
  );
});
