import { printJson } from '../model/jsonText';
import type { OutcomeComparison } from './compareOutcome';
import { expectationText } from './expectation';

/** Returns a line for each thing that is not as a sample expects. */
export function differenceLines({ records, messages, problems }: OutcomeComparison): readonly string[] {
  return [
    ...[...records, ...messages].flatMap(({ key, verdict, fields, deed, expectedDeed }) => {
      if (verdict === 'holds') return [];
      const lines = fields
        .filter((field) => field.verdict !== 'holds')
        .map(({ path, got, expected, verdict: field }) => {
          const wanted = expected ? expectationText(expected) : 'no change';
          const held = got === undefined ? 'no change' : printJson(got);
          return `${key} ${path}: ${field}; expected ${wanted}, got ${held}`;
        });
      const whole = deed !== expectedDeed && deed && expectedDeed;
      return lines.length > 0 && !whole ? lines : [`${key}: ${verdict}`, ...lines];
    }),
    ...problems
      .filter(({ verdict }) => verdict !== 'holds')
      .map(({ text, verdict }) => `${verdict}: ${text}`),
  ];
}
