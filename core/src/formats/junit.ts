import { XMLBuilder } from 'fast-xml-parser';

/** One case of a test report. */
export interface JUnitCase {
  readonly group: string;
  readonly name: string;
  readonly seconds: number;
  /** Why it failed: a line for each reason. */
  readonly failures?: readonly string[];
  /** Why it says nothing either way. */
  readonly skipped?: string;
}

/** Characters that XML 1.0 has no place for (section 2.2), even escaped. */
// eslint-disable-next-line no-control-regex -- these are the characters that are meant
const notXml = /[^\u0009\u000a\u000d\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu;

/**
 * Returns a test report in JUnit XML, as servers of continuous integration read it: one suite, its cases with what failed. The format
 * has no standard; `junit.xsd` beside this file is the schema that one such server publishes.
 */
export function toJUnitXml(suite: string, cases: readonly JUnitCase[]): string {
  const failed = cases.filter(({ failures }) => failures !== undefined).length;
  const skipped = cases.filter((each) => each.skipped !== undefined).length;
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    format: true,
    suppressEmptyNode: true,
    processEntities: true,
  });
  const body = builder.build({
    testsuites: {
      testsuite: {
        '@name': clean(suite),
        '@tests': cases.length,
        '@failures': failed,
        '@errors': 0,
        '@skipped': skipped,
        '@time': seconds(cases.reduce((sum, each) => sum + each.seconds, 0)),
        testcase: cases.map(({ group, name, seconds: took, failures, skipped: because }) => ({
          '@classname': clean(group),
          '@name': clean(name),
          '@time': seconds(took),
          ...(failures && {
            failure: { '@message': clean(failures[0] ?? ''), '#text': clean(failures.join('\n')) },
          }),
          ...(because !== undefined && { skipped: clean(because) }),
        })),
      },
    },
  });
  return `<?xml version="1.0" encoding="UTF-8"?>\n${body}`;
}

function seconds(value: number): string {
  return value.toFixed(3);
}

function clean(text: string): string {
  return text.replace(notXml, '\ufffd');
}
