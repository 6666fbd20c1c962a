import slugify from '@sindresorhus/slugify';
import { FormulaError } from '../error';
import { boolean, integer, text, type Type } from '../type';
import type { Value } from '../value';
import { boundedList, joined, tooLong } from './bounded';
import { lengthOf, sliceText } from './codePoints';
import { anyParam, define, integerParam, optional, textParam } from './define';
import { greatest, noLonger, productOf, sumOf, writtenNumber } from './traits';
import { limits } from '../limits';

const listOfText: Type = { kind: 'list', of: text };

/** Control characters (Cc) and format characters without width (Cf), line breaks among them. */
const unprintable = /[\p{Cc}\p{Cf}]/gu;

/** Returns the text filled up to a length, counted in code points, on one side. */
function pad(value: string, length: number, fill: string, side: 'left' | 'right'): string | FormulaError {
  if (length > limits.text) return tooLong();
  if (fill === '') return new FormulaError('value', 'The filling must be one character or more.');
  const missing = length - lengthOf(value);
  if (missing <= 0) return value;
  const filling = sliceText(fill.repeat(Math.ceil(missing / lengthOf(fill))), 0, missing);
  return side === 'left' ? filling + value : value + filling;
}

/** Returns where a mark stands for the n-th time, from the left or, with a negative n, from the right; -1 for nowhere. */
function nth(value: string, mark: string, which: number): number {
  let at = -1;
  if (which > 0) {
    for (let count = 0; count < which; count++) {
      at = value.indexOf(mark, at < 0 ? 0 : at + mark.length);
      if (at < 0) return -1;
    }
    return at;
  }
  at = value.length;
  for (let count = 0; count < -which; count++) {
    if (at <= 0) return -1;
    at = value.lastIndexOf(mark, at - 1);
    if (at < 0) return -1;
  }
  return at;
}

function around(value: string, mark: string, which: number, side: 'before' | 'after'): string | FormulaError {
  if (mark === '' || which === 0) {
    return new FormulaError('value', 'The mark must be one character or more, and “which” not 0.');
  }
  const at = nth(value, mark, which);
  if (at < 0) return new FormulaError('value', `“${mark}” does not occur in the text.`);
  return side === 'before' ? value.slice(0, at) : value.slice(at + mark.length);
}

export const textPartFunctions = [
  define({
    name: 'TEXTBEFORE',
    family: 'text',
    meaning:
      'The text before a mark: its first occurrence, the second with 2, the last with -1; an error when it is not there.',
    params: [textParam('text'), textParam('mark'), optional(integerParam('which'))],
    result: text,
    examples: [
      { formula: 'TEXTBEFORE("desk@fair-isle.example", "@")', gives: '"desk"' },
      { formula: 'TEXTBEFORE("a/b/c", "/", -1)', gives: '"a/b"' },
    ],
    ...noLonger,
    source: 'own',
    call: ([value, mark, which = 1]) => around(value, mark, which, 'before'),
  }),
  define({
    name: 'TEXTAFTER',
    family: 'text',
    meaning:
      'The text after a mark: its first occurrence, the second with 2, the last with -1; an error when it is not there.',
    params: [textParam('text'), textParam('mark'), optional(integerParam('which'))],
    result: text,
    examples: [
      { formula: 'TEXTAFTER("NOR: Northport", ": ")', gives: '"Northport"' },
      { formula: 'TEXTAFTER("a/b/c", "/", 2)', gives: '"c"' },
    ],
    ...noLonger,
    source: 'own',
    call: ([value, mark, which = 1]) => around(value, mark, which, 'after'),
  }),
  define({
    name: 'SPLIT',
    family: 'text',
    meaning: 'The parts of a text between separators, as a list; each part is trimmed, and empty ones stay.',
    params: [textParam('text'), textParam('separator')],
    result: listOfText,
    examples: [
      { formula: 'SPLIT("chilled; fragile", ";")', gives: '{"chilled", "fragile"}' },
      { formula: 'COUNTA(SPLIT("a,b,c", ","))', gives: '3' },
    ],
    source: 'own',
    call: ([value, separator]) =>
      separator === ''
        ? new FormulaError('value', 'The separator must be one character or more.')
        : boundedList(value.split(separator).map((part) => part.trim())),
  }),
  define({
    name: 'CONTAINS',
    family: 'text',
    meaning: 'Whether a text occurs in another one; capital and small letters differ.',
    params: [textParam('text'), textParam('search')],
    result: boolean,
    examples: [
      { formula: 'CONTAINS("North Skerry", "Sker")', gives: 'TRUE' },
      { formula: 'CONTAINS("North Skerry", "sker")', gives: 'FALSE' },
    ],
    source: 'own',
    call: ([value, search]) => value.includes(search),
  }),
  define({
    name: 'ENDSWITH',
    family: 'text',
    meaning: 'Whether a text ends with another one.',
    params: [textParam('text'), textParam('ending')],
    result: boolean,
    examples: [
      { formula: 'ENDSWITH("manifest.csv", ".csv")', gives: 'TRUE' },
      { formula: 'ENDSWITH("manifest.csv", ".CSV")', gives: 'FALSE' },
    ],
    source: 'own',
    call: ([value, ending]) => value.endsWith(ending),
  }),
  define({
    name: 'EXACT',
    family: 'text',
    meaning: 'Whether two texts are the same, letter by letter.',
    params: [textParam('text'), textParam('other')],
    result: boolean,
    examples: [
      { formula: 'EXACT("Skerry", "Skerry")', gives: 'TRUE' },
      { formula: 'EXACT("Skerry", "SKERRY")', gives: 'FALSE' },
    ],
    source: 'ODF 1.3 part 4, 6.20.8 EXACT',
    call: ([value, other]) => value === other,
  }),
  define({
    name: 'CONCATENATE',
    family: 'text',
    meaning: 'Several values in one text; blanks add nothing.',
    params: [anyParam('value')],
    rest: anyParam('value'),
    result: text,
    seesBlanks: true,
    examples: [
      { formula: 'CONCATENATE("SK", "-", 42)', gives: '"SK-42"' },
      { formula: 'CONCATENATE("a", "", "b")', gives: '"ab"' },
    ],
    flow: null,
    longest: (parts, longestOf) => sumOf(parts.map(longestOf)),
    joins: (parts) => parts,
    source: 'ODF 1.3 part 4, 6.20.6 CONCATENATE',
    call: (values) => joined(values as Value[]),
  }),
  define({
    name: 'PADLEFT',
    family: 'text',
    meaning: 'The text filled up on the left to a length, with spaces or with the given filling; never cut.',
    params: [textParam('text'), integerParam('length'), optional(textParam('filling'))],
    result: text,
    examples: [
      { formula: 'PADLEFT("42", 6, "0")', gives: '"000042"' },
      { formula: 'PADLEFT("1234567", 6, "0")', gives: '"1234567"' },
    ],
    longest: ([of, length], longestOf) => greatest(longestOf(of), writtenNumber(length)),
    source: 'own',
    call: ([value, length, fill = ' ']) => pad(value, length, fill, 'left'),
  }),
  define({
    name: 'PADRIGHT',
    family: 'text',
    meaning: 'The text filled up on the right to a length, with spaces or with the given filling; never cut.',
    params: [textParam('text'), integerParam('length'), optional(textParam('filling'))],
    result: text,
    examples: [
      { formula: 'PADRIGHT("NOR", 5, ".")', gives: '"NOR.."' },
      { formula: 'LEN(PADRIGHT("NOR", 8))', gives: '8' },
    ],
    longest: ([of, length], longestOf) => greatest(longestOf(of), writtenNumber(length)),
    source: 'own',
    call: ([value, length, fill = ' ']) => pad(value, length, fill, 'right'),
  }),
  define({
    name: 'REPT',
    family: 'text',
    meaning: 'The text several times over.',
    params: [textParam('text'), integerParam('times')],
    result: text,
    examples: [
      { formula: 'REPT("ab", 3)', gives: '"ababab"' },
      { formula: 'REPT("ab", -1)', gives: 'error: value' },
    ],
    longest: ([of, times], longestOf) => productOf(longestOf(of), writtenNumber(times)),
    source: 'ODF 1.3 part 4, 6.20.18 REPT',
    call: ([value, times]) => {
      if (times < 0) return new FormulaError('value', '“times” must be 0 or more.');
      return value.length * times > limits.text ? tooLong() : value.repeat(times);
    },
  }),
  define({
    name: 'CLEAN',
    family: 'text',
    meaning: 'The text without characters that cannot be printed: line breaks, tabs, zero-width marks.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'CLEAN("Quay" & UNICHAR(10) & " 2")', gives: '"Quay 2"' },
      { formula: 'CLEAN("plain")', gives: '"plain"' },
    ],
    ...noLonger,
    source: 'ODF 1.3 part 4, 6.20.4 CLEAN; zero-width format characters too is our own',
    call: ([value]) => value.replace(unprintable, ''),
  }),
  define({
    name: 'FOLD',
    family: 'text',
    meaning:
      'The text for comparing: small letters without accents, compatible forms made one, runs of spaces made one.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'FOLD("  Château   D’IF ")', gives: '"chateau d’if"' },
      { formula: 'FOLD("STRASSE") = FOLD("straße")', gives: 'TRUE' },
    ],
    source: 'own, from Unicode NFKD, full case mapping and the property Mn',
    call: ([value]) =>
      value
        .normalize('NFKD')
        .replace(/\p{Mn}/gu, '')
        // Upper first: full case mapping opens ß into SS, so that both spellings meet.
        .toUpperCase()
        .toLowerCase()
        .replace(/\s+/gu, ' ')
        .trim()
        .normalize('NFC'),
  }),
  define({
    name: 'SLUG',
    family: 'text',
    meaning: 'The text as one word of small Latin letters, digits and hyphens, fit for an address or a key.',
    params: [textParam('text')],
    result: text,
    examples: [
      { formula: 'SLUG("North Skerry Smokehouse & Co.")', gives: '"north-skerry-smokehouse-and-co"' },
      { formula: 'SLUG("Østerøy quay 2")', gives: '"osteroy-quay-2"' },
    ],
    source: 'own, by the package @sindresorhus/slugify',
    call: ([value]) => slugify(value),
  }),
  define({
    name: 'UNICODE',
    family: 'text',
    meaning: 'The Unicode number of the first character of a text.',
    params: [textParam('text')],
    result: integer,
    examples: [
      { formula: 'UNICODE("A")', gives: '65' },
      { formula: 'UNICODE("🚢")', gives: '128674' },
    ],
    source: 'ODF 1.3 part 4, 6.20.26 UNICODE',
    call: ([value]) => value.codePointAt(0) ?? null,
  }),
  define({
    name: 'UNICHAR',
    family: 'text',
    meaning: 'The character with a Unicode number.',
    params: [integerParam('number')],
    result: text,
    examples: [
      { formula: 'UNICHAR(65)', gives: '"A"' },
      { formula: 'UNICHAR(55296)', gives: 'error: value' },
    ],
    source: 'ODF 1.3 part 4, 6.20.25 UNICHAR',
    call: ([code]) =>
      code < 1 || code > 0x10ffff || (code >= 0xd800 && code <= 0xdfff)
        ? new FormulaError('value', `${code} is not the number of a character.`)
        : String.fromCodePoint(code),
  }),
];
