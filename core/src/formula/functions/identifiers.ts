import { parsePhoneNumberFromString, isSupportedCountry } from 'libphonenumber-js/max';
import { FormulaError } from '../error';
import { text } from '../type';
import { define, optional, textParam } from './define';

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
    source:
      'ITU-T E.164, by the package libphonenumber-js; a number counts when its length is possible for its country',
    call: ([number, country]) => {
      if (country !== undefined && !isSupportedCountry(country)) {
        return new FormulaError(
          'value',
          `“${country}” is not a country code of two letters (ISO 3166-1 alpha-2).`,
        );
      }
      const parsed = parsePhoneNumberFromString(number, country);
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
    source: 'own; the form of an address is that of RFC 5321, 4.1.2',
    call: ([address]) => {
      const trimmed = address.trim();
      const at = trimmed.lastIndexOf('@');
      return at > 0 && at < trimmed.length - 1 && !/\s/.test(trimmed)
        ? trimmed.slice(at + 1).toLowerCase()
        : new FormulaError('value', `“${address}” is not an e-mail address.`);
    },
  }),
];
