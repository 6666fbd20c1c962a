import { parsePhoneNumberFromString, isSupportedCountry } from 'libphonenumber-js/max';
import { getDomain } from 'tldts';
import { FormulaError } from '../error';
import { text } from '../type';
import { define, optional, textParam } from './define';
import { atMost, noLonger } from './traits';

/** No number is longer, however it is written. */
const longestPhone = 250;

/** What reading one costs, in units of the budget. */
const phoneEffort = 60;

function parsedPhone(text: string, country?: Parameters<typeof parsePhoneNumberFromString>[1]) {
  return text.length > longestPhone ? undefined : parsePhoneNumberFromString(text, country);
}

export const identifierFunctions = [
  define({
    name: 'PHONE',
    family: 'identifiers',
    meaning:
      'A telephone number in the international form of E.164; the country is where a number without + is dialled.',
    params: [textParam('number'), optional(textParam('country'))],
    result: text,
    examples: [
      { formula: 'PHONE("01632 960 120", "GB")', gives: '"+441632960120"' },
      { formula: 'PHONE("call me")', gives: 'error: value' },
    ],
    // A plus sign and 15 digits (ITU-T E.164, 6.2.1).
    ...atMost(16),
    effort: phoneEffort,
    source:
      'ITU-T E.164, by the package libphonenumber-js; a number counts when its length is possible for its country',
    call: ([number, country]) => {
      if (country !== undefined && !isSupportedCountry(country)) {
        return new FormulaError(
          'value',
          `“${country}” is not a country code of two letters (ISO 3166-1 alpha-2).`,
        );
      }
      const parsed = parsedPhone(number, country);
      if (parsed?.isPossible()) return parsed.number;
      const hint =
        country === undefined && !number.trim().startsWith('+') ? ' Say its country, or begin with +.' : '';
      return new FormulaError('value', `“${number}” is not a telephone number.${hint}`);
    },
  }),
  define({
    name: 'EMAILDOMAIN',
    family: 'identifiers',
    meaning: 'The part of an e-mail address after the @, in small letters.',
    params: [textParam('address')],
    result: text,
    examples: [
      { formula: 'EMAILDOMAIN("Desk@Fair-Isle.example")', gives: '"fair-isle.example"' },
      { formula: 'EMAILDOMAIN("nobody")', gives: 'error: value' },
    ],
    ...noLonger,
    source: 'own; the form of an address is that of RFC 5321, 4.1.2',
    call: ([address]) => {
      const trimmed = address.trim();
      const at = trimmed.lastIndexOf('@');
      return at > 0 && at < trimmed.length - 1 && !/\s/.test(trimmed)
        ? trimmed.slice(at + 1).toLowerCase()
        : new FormulaError('value', `“${address}” is not an e-mail address.`);
    },
  }),
  define({
    name: 'PHONECOUNTRY',
    family: 'identifiers',
    meaning: 'The country of a telephone number in international form, as a code of two letters.',
    params: [textParam('number')],
    result: text,
    examples: [
      { formula: 'PHONECOUNTRY("+441632960120")', gives: '"GB"' },
      { formula: 'PHONECOUNTRY("01632 960 120")', gives: 'error: value' },
    ],
    ...atMost(2),
    effort: phoneEffort,
    source: 'ITU-T E.164 and ISO 3166-1, by the package libphonenumber-js',
    call: ([number]) => {
      const parsed = parsedPhone(number);
      if (!parsed)
        return new FormulaError('value', `“${number}” is not a telephone number that begins with +.`);
      // Several countries share a calling code; the first of them stands for a number that fits none exactly.
      return parsed.country ?? parsed.getPossibleCountries()[0] ?? null;
    },
  }),
  define({
    name: 'REGISTRABLEDOMAIN',
    family: 'identifiers',
    meaning:
      'The part of a domain, address or link that one owner registered: the name before the public ending.',
    params: [textParam('domain')],
    result: text,
    examples: [
      { formula: 'REGISTRABLEDOMAIN("mail.fair-isle.co.uk")', gives: '"fair-isle.co.uk"' },
      { formula: 'REGISTRABLEDOMAIN("desk@post.fair-isle.example")', gives: '"fair-isle.example"' },
    ],
    ...noLonger,
    source: 'the Public Suffix List, by the package tldts',
    call: ([domain]) =>
      getDomain(domain.trim().slice(domain.trim().lastIndexOf('@') + 1)) ??
      new FormulaError('value', `“${domain}” has no registrable domain.`),
  }),
];
