import { FormulaError } from '../error';
import { isBlank } from '../compare';
import { boolean, integer, text } from '../type';
import { isList, type Value } from '../value';
import { limits } from '../limits';
import { boundedText, Joining, tooLong } from './bounded';
import { lengthOf, sliceText } from './codePoints';
import { anyParam, booleanParam, define, integerParam, optional, textParam } from './define';
import { least, noLonger, productOf, sumOf, writtenNumber } from './traits';

/** Spaces only, as the standard says. */
function trimSpaces(value: string): string {
  let start = 0;
  let end = value.length;
  while (start < end && value.charCodeAt(start) === 32) start++;
  while (end > start && value.charCodeAt(end - 1) === 32) end--;
  const inner = value.slice(start, end);
  return inner.includes('  ') ? inner.replace(/ {2,}/g, ' ') : inner;
}

function tooSmall(name: string, least: number): FormulaError {
  return new FormulaError('value', `“${name}” must be ${least} or more.`);
}

export const textFunctions = [
  define({
    name: 'UPPER',
    family: 'text',
    meaning: 'The text in capital letters.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'UPPER("Skerry")', gives: '"SKERRY"' },
      { formula: 'UPPER("straße")', gives: '"STRASSE"' },
    ],
    ...noLonger,
    source: 'ODF 1.3 part 4, 6.20.27 UPPER',
    call: ([value]) => value.toUpperCase(),
  }),
  define({
    name: 'LOWER',
    family: 'text',
    meaning: 'The text in small letters.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'LOWER("Fair Isle")', gives: '"fair isle"' },
      { formula: 'LOWER("ØSTERØY")', gives: '"østerøy"' },
    ],
    ...noLonger,
    source: 'ODF 1.3 part 4, 6.20.14 LOWER',
    call: ([value]) => value.toLowerCase(),
  }),
  define({
    name: 'PROPER',
    family: 'text',
    meaning: 'The text with a capital at the start of each word and small letters after it.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'PROPER("north SKERRY fish")', gives: '"North Skerry Fish"' },
      { formula: 'PROPER("o-ring store")', gives: '"O-Ring Store"' },
    ],
    ...noLonger,
    source: 'ODF 1.3 part 4, 6.20.16 PROPER',
    call: ([value]) => value.toLowerCase().replace(/(?<!\p{L})\p{L}/gu, (letter) => letter.toUpperCase()),
  }),
  define({
    name: 'LEFT',
    family: 'text',
    meaning: 'The first characters of a text; one, when no length is given.',
    params: [textParam('text'), optional(integerParam('length'))],
    result: text,
    examples: [
      { formula: 'LEFT("Skerry Line", 6)', gives: '"Skerry"' },
      { formula: 'LEFT("🚢 ferry", 1)', gives: '"🚢"' },
    ],
    longest: ([of, count], longestOf) => least(count ? writtenNumber(count) : 1, longestOf(of)),
    source: 'ODF 1.3 part 4, 6.20.12 LEFT',
    call: ([value, length = 1]) => (length < 0 ? tooSmall('length', 0) : sliceText(value, 0, length)),
  }),
  define({
    name: 'RIGHT',
    family: 'text',
    meaning: 'The last characters of a text; one, when no length is given.',
    params: [textParam('text'), optional(integerParam('length'))],
    result: text,
    examples: [
      { formula: 'RIGHT("SK-0042", 4)', gives: '"0042"' },
      { formula: 'RIGHT("ab", 5)', gives: '"ab"' },
    ],
    longest: ([of, count], longestOf) => least(count ? writtenNumber(count) : 1, longestOf(of)),
    source: 'ODF 1.3 part 4, 6.20.19 RIGHT',
    call: ([value, length = 1]) => {
      if (length < 0) return tooSmall('length', 0);
      return sliceText(value, Math.max(0, lengthOf(value) - length), Number.MAX_SAFE_INTEGER);
    },
  }),
  define({
    name: 'MID',
    family: 'text',
    meaning: 'The characters of a text from a position on; the first is at position 1.',
    params: [textParam('text'), integerParam('start'), integerParam('length')],
    result: text,
    examples: [
      { formula: 'MID("SK-0042", 4, 2)', gives: '"00"' },
      { formula: 'MID("SK", 9, 2)', gives: '""' },
    ],
    longest: ([of, _start, count], longestOf) => least(writtenNumber(count), longestOf(of)),
    // There may be nothing at its position.
    blank: () => true,
    source: 'ODF 1.3 part 4, 6.20.15 MID',
    call: ([value, start, length]) => {
      if (start < 1) return tooSmall('start', 1);
      if (length < 0) return tooSmall('length', 0);
      return sliceText(value, start - 1, start - 1 + length);
    },
  }),
  define({
    name: 'LEN',
    family: 'text',
    meaning: 'How many characters a text has, counted as Unicode code points.',
    params: [textParam('text')],
    result: integer,
    examples: [
      { formula: 'LEN("Skerry")', gives: '6' },
      { formula: 'LEN("🚢")', gives: '1' },
    ],
    range: () => ({ min: 0 }),
    source: 'ODF 1.3 part 4, 6.20.13 LEN',
    call: ([value]) => lengthOf(value),
  }),
  define({
    name: 'TRIM',
    family: 'text',
    meaning: 'The text without spaces at its ends, and with single spaces inside.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'TRIM("  North   Quay ")', gives: '"North Quay"' },
      { formula: 'TRIM(" a ")', gives: '"a"' },
    ],
    ...noLonger,
    source: 'ODF 1.3 part 4, 6.20.24 TRIM',
    call: ([value]) => trimSpaces(value),
  }),
  define({
    name: 'SUBSTITUTE',
    family: 'text',
    meaning: 'The text with every occurrence of a part replaced, or only the one that is counted.',
    params: [textParam('text'), textParam('old'), textParam('new'), optional(integerParam('which'))],
    result: text,
    seesBlanks: false,
    examples: [
      { formula: 'SUBSTITUTE("a-b-c", "-", "/")', gives: '"a/b/c"' },
      { formula: 'SUBSTITUTE("a-b-c", "-", "/", 2)', gives: '"a-b/c"' },
    ],
    source: 'ODF 1.3 part 4, 6.20.21 SUBSTITUTE',
    call: ([value, old, by, which]) => {
      if (old === '') return value;
      if (which === undefined) {
        // The length is known before the text is made, so that no text grows beyond the bound.
        const times = by.length > old.length ? value.split(old).length - 1 : 0;
        if (value.length + times * (by.length - old.length) > limits.text) return tooLong();
        return value.replaceAll(old, () => by);
      }
      if (which < 1) return tooSmall('which', 1);
      const parts = value.split(old);
      if (parts.length <= which) return value;
      return parts.slice(0, which).join(old) + by + parts.slice(which).join(old);
    },
  }),
  define({
    name: 'REPLACE',
    family: 'text',
    meaning: 'The text with the characters from a position on replaced by another text.',
    params: [textParam('text'), integerParam('start'), integerParam('length'), textParam('new')],
    result: text,
    examples: [
      { formula: 'REPLACE("SK-0042", 1, 2, "NL")', gives: '"NL-0042"' },
      { formula: 'REPLACE("ab", 2, 0, "-")', gives: '"a-b"' },
    ],
    longest: ([of, , , by], longestOf) => sumOf([longestOf(of), longestOf(by)]),
    source: 'ODF 1.3 part 4, 6.20.17 REPLACE',
    call: ([value, start, length, by]) => {
      if (start < 1) return tooSmall('start', 1);
      if (length < 0) return tooSmall('length', 0);
      const rest = sliceText(value, start - 1 + length, Number.MAX_SAFE_INTEGER);
      return boundedText(sliceText(value, 0, start - 1) + by + rest);
    },
  }),
  define({
    name: 'FIND',
    family: 'text',
    meaning: 'The position of a text inside another one, from 1; an error when it is not there.',
    params: [textParam('search'), textParam('text'), optional(integerParam('start'))],
    result: integer,
    examples: [
      { formula: 'FIND("@", "desk@fair-isle.example")', gives: '5' },
      { formula: 'FIND("x", "abc")', gives: 'error: value' },
    ],
    flow: 1,
    source: 'ODF 1.3 part 4, 6.20.9 FIND',
    call: ([search, value, start = 1]) => {
      if (start < 1) return tooSmall('start', 1);
      const skipped = sliceText(value, 0, start - 1);
      const at = value.indexOf(search, skipped.length);
      return at < 0
        ? new FormulaError('value', `“${search}” does not occur in the text.`)
        : lengthOf(value.slice(0, at)) + 1;
    },
  }),
  define({
    name: 'STARTSWITH',
    family: 'text',
    meaning: 'Whether a text begins with another one.',
    params: [textParam('text'), textParam('beginning')],
    result: boolean,
    examples: [
      { formula: 'STARTSWITH("SK-0042", "SK")', gives: 'TRUE' },
      { formula: 'STARTSWITH("SK-0042", "sk")', gives: 'FALSE' },
    ],
    source: 'own',
    call: ([value, beginning]) => value.startsWith(beginning),
  }),
  define({
    name: 'TEXTJOIN',
    family: 'text',
    meaning:
      'Several texts or lists in one, with a separator between; blanks are left out when the second argument is TRUE.',
    params: [textParam('separator'), booleanParam('skip blanks')],
    rest: anyParam('text'),
    result: text,
    seesBlanks: true,
    examples: [
      { formula: 'TEXTJOIN(", ", TRUE, "Quay 2", "", "Northport")', gives: '"Quay 2, Northport"' },
      { formula: 'TEXTJOIN("-", FALSE, "a", "", "b")', gives: '"a--b"' },
    ],
    flow: null,
    blank: ([, , ...parts], mayBeBlank) => parts.every(mayBeBlank),
    joins: (parts) => parts.slice(2),
    longest: ([separator, , ...parts], longestOf) =>
      parts.some(({ type }) => type.kind === 'list')
        ? undefined
        : sumOf([...parts.map(longestOf), productOf(longestOf(separator), Math.max(0, parts.length - 1))]),
    source: 'ODF 1.3 part 4, 6.20.23 TEXTJOIN',
    call: (args) => {
      const [separator, skip] = args;
      const joining = new Joining(separator);
      for (let at = 2; at < args.length; at++) {
        const part = args[at] as Value;
        if (!isList(part)) {
          if (!skip || !isBlank(part)) joining.add(part);
        } else for (const one of part) if (!skip || !isBlank(one)) joining.add(one);
      }
      return joining.joined;
    },
  }),
];
