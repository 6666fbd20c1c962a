import countries from 'i18n-iso-countries';
import english from 'i18n-iso-countries/langs/en.json';
import french from 'i18n-iso-countries/langs/fr.json';
import { iso31661 } from 'iso-3166/1.js';
import { FormulaError } from '../error';
import fullNames from './countryFullNames.json';

countries.registerLocale(english);
countries.registerLocale(french);

const littleWords = new Set(['the', 'of', 'and', 'de', 'la', 'le', 'les', 'du', 'des', 'd', 'l', 'et']);

/**
 * Returns a name as its words, in one order and without articles, accents and marks: “Korea (the Republic of)”, “Korea, Republic
 * of” and “the Republic of Korea” are one name.
 */
function wordsOf(name: string): string {
  const plain = name.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().replace(/\./g, '');
  const words = plain.match(/[\p{L}\p{N}]+/gu) ?? [];
  return words
    .filter((word) => !littleWords.has(word))
    .map((word) => (word === 'st' ? 'saint' : word))
    .sort()
    .join(' ');
}

type Named = readonly [alpha2: string, names: readonly string[]];

/** The names of countries by their source; what an earlier one says holds before what a later one says. */
const sources: readonly (() => readonly Named[])[] = [
  () => iso31661.map(({ name, alpha2 }) => [alpha2, [name]]),
  () => Object.entries(fullNames).map(([alpha2, name]) => [alpha2, [name]]),
  () => Object.entries(countries.getNames('en', { select: 'all' })),
  () => Object.entries(countries.getNames('fr', { select: 'all' })),
];

let codeByWords: ReadonlyMap<string, string> | undefined;

/** Returns the codes by names, made when the first name is asked for. */
function codesByName(): ReadonlyMap<string, string> {
  if (codeByWords) return codeByWords;
  const found = new Map<string, string>();
  for (const source of sources)
    for (const [alpha2, names] of source())
      for (const words of names.map(wordsOf)) if (!found.has(words)) found.set(words, alpha2);
  codeByWords = found;
  return found;
}

/** No name of a country is longer; a longer text is not looked at. */
const longestName = 100;

/**
 * Returns the alpha-2 code of a country of ISO 3166-1 given as alpha-2, alpha-3 or numeric code, in any letters, or by one of
 * its names: short and full, English and French, in the order of a list or of a sentence. Numbers may lack leading zeros.
 * Names: packages i18n-iso-countries and iso-3166; full names from ISO 3166-1 as Debian's package iso-codes 4.15 has them.
 */
export function countryCode(country: string): string | FormulaError {
  return alpha2(country.trim()) ?? new FormulaError('value', `“${country}” is not a country of ISO 3166-1.`);
}

function alpha2(given: string): string | undefined {
  if (/^\d{1,3}$/.test(given)) return countries.numericToAlpha2(given.padStart(3, '0'));
  const code = given.toUpperCase();
  if (/^[A-Z]{2}$/.test(code) && countries.isValid(code)) return code;
  const fromThree = /^[A-Z]{3}$/.test(code) ? countries.alpha3ToAlpha2(code) : undefined;
  if (fromThree !== undefined) return fromThree;
  return given.length > longestName ? undefined : codesByName().get(wordsOf(given));
}

const countryForms = ['alpha-2', 'alpha-3', 'numeric', 'name'] as const;

/** Returns a country in one of the forms; an error for a form that is none of them. */
export function countryAs(alpha2: string, form: string): string | null | FormulaError {
  switch (form) {
    case 'alpha-2':
      return alpha2;
    case 'alpha-3':
      return countries.alpha2ToAlpha3(alpha2) ?? null;
    case 'numeric':
      return countries.alpha2ToNumeric(alpha2) ?? null;
    case 'name':
      return countries.getName(alpha2, 'en') ?? null;
    default:
      return new FormulaError('value', `“form” is one of ${countryForms.join(', ')}.`);
  }
}
