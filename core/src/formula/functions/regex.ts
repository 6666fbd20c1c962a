import { RE2JS } from 're2js';
import { FormulaError } from '../error';
import { boolean, text } from '../type';
import { boundedText } from './bounded';
import { define, integerParam, optional, textParam } from './define';

/** Patterns made ready, newest last; formulas mostly use one pattern for many records. */
const ready = new Map<string, RE2JS>();
const keptPatterns = 200;
const longestPattern = 500;

/** Reads a pattern once. The matcher runs in time linear to the text, whatever the pattern. */
function pattern(source: string): RE2JS | FormulaError {
  const known = ready.get(source);
  if (known) return known;
  if (source.length > longestPattern) {
    return new FormulaError('limit', `A pattern may be ${longestPattern} characters long.`);
  }
  try {
    const made = RE2JS.compile(source);
    if (ready.size >= keptPatterns) ready.delete(ready.keys().next().value ?? '');
    ready.set(source, made);
    return made;
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : 'it cannot be read';
    return new FormulaError('value', `“${source}” is not a pattern: ${why}`);
  }
}

const syntaxSource = 'own; patterns in the RE2 syntax without back references, by the package re2js';

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
    source: syntaxSource,
    call: ([value, source]) => {
      const made = pattern(source);
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
    source: syntaxSource,
    call: ([value, source, group = 0]) => {
      const made = pattern(source);
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
    source: syntaxSource,
    call: ([value, source, by]) => {
      const made = pattern(source);
      if (made instanceof FormulaError) return made;
      try {
        return boundedText(made.matcher(value).replaceAll(by));
      } catch (thrown) {
        const why = thrown instanceof Error ? thrown.message : 'it names a group that is not there';
        return new FormulaError('value', `The new text cannot be used: ${why}`);
      }
    },
  }),
];
