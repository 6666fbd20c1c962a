import { parsePhoneNumberFromString, isSupportedCountry } from 'libphonenumber-js/max';
import { getDomain } from 'tldts';
import { FormulaError } from '../error';
import { text } from '../type';
import { countryCode } from './countries';
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
      'A telephone number in the international form of E.164; the country, in any form, is where a number without + is dialled.',
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
      const code = country === undefined ? undefined : countryCode(country);
      if (code instanceof FormulaError) return code;
      if (code !== undefined && !isSupportedCountry(code))
        return new FormulaError('value', `No telephone numbers are known of “${country}”.`);
      const parsed = parsedPhone(number, code);
      if (parsed?.isPossible()) return parsed.number;
      const hint =
        code === undefined && !number.trim().startsWith('+') ? ' Say its country, or begin with +.' : '';
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
    source: 'own; the form of an address is that of RFC 5321, 4.1.2, with one @ only',
    call: ([address]) => {
      const domain = /^[^@\s]+@([^@\s]+)$/.exec(address.trim())?.[1];
      return domain?.toLowerCase() ?? new FormulaError('value', `“${address}” is not an e-mail address.`);
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
      'The part of a domain, address or link that one owner registered: the name before the public ending. Endings that companies let others use are names as well.',
    params: [textParam('domain')],
    result: text,
    examples: [
      { formula: 'REGISTRABLEDOMAIN("mail.fair-isle.co.uk")', gives: '"fair-isle.co.uk"' },
      { formula: 'REGISTRABLEDOMAIN("desk@post.fair-isle.example")', gives: '"fair-isle.example"' },
    ],
    ...noLonger,
    source: 'the Public Suffix List without its private part, by the package tldts',
    call: ([domain]) => {
      const text = domain.trim();
      const address = /^[^@/]*@/.exec(text)?.[0] ?? '';
      const host = text.slice(address.length);
      const found = address !== '' && host.includes('@') ? null : getDomain(host);
      return found ?? new FormulaError('value', `“${domain}” has no registrable domain.`);
    },
  }),
];
