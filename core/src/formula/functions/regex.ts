import type { RE2JS } from 're2js';
import { FormulaError } from '../error';
import { patternOf } from '../pattern';
import { boolean, text } from '../type';
import { boundedText, tooLong } from './bounded';
import { limits } from '../limits';
import { define, integerParam, optional, textParam } from './define';
import { noLonger } from './traits';

const syntaxSource = 'own; patterns in the RE2 syntax without back references, by the package re2js';

/** Going through 64 characters with a pattern costs so much. */
const textEffort = 150;

/** Stands in a replacement for what matched, for a group of it, or for the text before or after it. */
const references = /\$(?:&|\d{1,2}|<[^>]*>)/g;

/** Returns how long the text can become at most when every match is replaced; stops counting where that is too long anyway. */
function mostReplaced(matcher: ReturnType<RE2JS['matcher']>, value: string, by: string): number {
  const inMatch = by.match(references)?.length ?? 0;
  const before = by.split('$`').length - 1;
  const after = by.split("$'").length - 1;
  let length = value.length;
  // There are no more matches than places between characters; most often that alone tells enough.
  if (before + after === 0 && (value.length + 1) * (by.length + 1) + inMatch * value.length <= limits.text)
    return length;
  while (matcher.find() && length <= 4 * limits.text) {
    const [start, end] = [matcher.start(), matcher.end()];
    length += by.length + inMatch * (end - start) + before * start + after * (value.length - end);
  }
  return length;
}

export const regexFunctions = [
  define({
    name: 'REGEXTEST',
    family: 'text',
    meaning: 'Whether a regular expression matches somewhere in a text; ^ and $ stand for its start and end.',
    params: [textParam('text'), textParam('pattern')],
    result: boolean,
    examples: [
      { formula: 'REGEXTEST("SK-0042", "^[A-Z]{2}-[0-9]{4}$")', gives: 'TRUE' },
      { formula: 'REGEXTEST("SK-42", "^[A-Z]{2}-[0-9]{4}$")', gives: 'FALSE' },
    ],
    textEffort,
    source: syntaxSource,
    call: ([value, source]) => {
      const made = patternOf(source);
      return made instanceof FormulaError ? made : made.matcher(value).find();
    },
  }),
  define({
    name: 'REGEXEXTRACT',
    family: 'text',
    meaning:
      'The first part of a text that matches a regular expression, or one of its groups; blank when nothing matches.',
    params: [textParam('text'), textParam('pattern'), optional(integerParam('group'))],
    result: text,
    examples: [
      { formula: 'REGEXEXTRACT("Voyage V-1207 to Northport", "V-[0-9]+")', gives: '"V-1207"' },
      { formula: 'REGEXEXTRACT("Voyage V-1207", "V-([0-9]+)", 1)', gives: '"1207"' },
    ],
    ...noLonger,
    textEffort,
    source: syntaxSource,
    call: ([value, source, group = 0]) => {
      const made = patternOf(source);
      if (made instanceof FormulaError) return made;
      if (group < 0 || group > made.groupCount()) {
        return new FormulaError('value', `The pattern has no group ${group}.`);
      }
      const matcher = made.matcher(value);
      return matcher.find() ? matcher.group(group) : null;
    },
  }),
  define({
    name: 'REGEXREPLACE',
    family: 'text',
    meaning:
      'The text with every match of a regular expression replaced; $1 to $9 in the new text stand for the groups.',
    params: [textParam('text'), textParam('pattern'), textParam('new')],
    result: text,
    examples: [
      { formula: 'REGEXREPLACE("01632 960-120", "[^0-9]", "")', gives: '"01632960120"' },
      { formula: 'REGEXREPLACE("Reid, Ada", "(.+), (.+)", "$2 $1")', gives: '"Ada Reid"' },
    ],
    textEffort,
    source: syntaxSource,
    call: ([value, source, by]) => {
      const made = patternOf(source);
      if (made instanceof FormulaError) return made;
      try {
        return mostReplaced(made.matcher(value), value, by) > 4 * limits.text
          ? tooLong()
          : boundedText(made.matcher(value).replaceAll(by));
      } catch (thrown) {
        const why = thrown instanceof Error ? thrown.message : 'it names a group that is not there';
        return new FormulaError('value', `The new text cannot be used: ${why}`);
      }
    },
  }),
];
