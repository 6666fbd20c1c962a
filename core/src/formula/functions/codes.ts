import { convert, getMeasureKind, type Unit } from 'convert';
import { v5 as uuid5, validate as isUuid } from 'uuid';
import { FormulaError } from '../error';
import { boolean, decimal, integer, text } from '../type';
import { Exact, settleNumber, type Value } from '../value';
import { countryAs, countryCode } from './countries';
import { currencyOf } from './currencies';
import { define, numberParam, textParam } from './define';
import { atMost } from './traits';

/** ISO 6346, annex A: letters count 10 to 38 without multiples of 11; each place weighs twice the one before. */
function containerDigit(code: string): number | undefined {
  const plain = code.toUpperCase().replace(/[\s-]/g, '');
  if (!/^[A-Z]{3}[UJZ]\d{6}\d?$/.test(plain)) return undefined;
  const sum = [...plain.slice(0, 10)].reduce((total, sign, at) => {
    const letter = sign.charCodeAt(0) - 65;
    const value = letter < 0 ? Number(sign) : 10 + letter + Math.floor((letter + 9) / 10);
    return total + value * 2 ** at;
  }, 0);
  return (sum % 11) % 10;
}

function isUnit(text: string): text is Unit {
  return getMeasureKind(text) !== undefined;
}

/** Namespaces of RFC 9562, 6.6, which may be named instead of written out. */
const namespaces: Readonly<Record<string, string>> = {
  dns: uuid5.DNS,
  url: uuid5.URL,
};

const currencySource = 'ISO 4217 as of 2026, by the package currency-codes and what changed since';

/** The most characters of each form; names have no bound. */
const lengths: Readonly<Record<string, number>> = { 'alpha-2': 2, 'alpha-3': 3, numeric: 3 };

export const codeFunctions = [
  define({
    name: 'COUNTRY',
    family: 'identifiers',
    meaning:
      'A country given by any of its codes or names (short or full, English or French), as "alpha-2", "alpha-3", "numeric" or "name".',
    params: [textParam('country'), textParam('form')],
    result: text,
    examples: [
      { formula: 'COUNTRY("GB", "alpha-3")', gives: '"GBR"' },
      { formula: 'COUNTRY("578", "name")', gives: '"Norway"' },
    ],
    longest: ([_country, form]) => (form?.node.kind === 'text' ? lengths[form.node.value] : undefined),
    source: 'ISO 3166-1, by the packages i18n-iso-countries and iso-3166',
    call: ([country, form]) => {
      const code = countryCode(country);
      return code instanceof FormulaError ? code : countryAs(code, form);
    },
  }),
  define({
    name: 'CURRENCYDIGITS',
    family: 'identifiers',
    meaning:
      'How many decimals amounts of a currency have; an error for gold and others that have no minor unit.',
    params: [textParam('currency')],
    result: integer,
    examples: [
      { formula: 'CURRENCYDIGITS("GBP")', gives: '2' },
      { formula: 'CURRENCYDIGITS("JPY")', gives: '0' },
    ],
    source: currencySource,
    call: ([code]) => {
      const found = currencyOf(code);
      return found instanceof FormulaError ? found : found.digits;
    },
  }),
  define({
    name: 'TOMINOR',
    family: 'identifiers',
    meaning:
      'An amount in the minor unit of its currency: pence, øre; an error when something would be lost.',
    params: [numberParam('amount'), textParam('currency')],
    result: integer,
    examples: [
      { formula: 'TOMINOR(12.5, "GBP")', gives: '1250' },
      { formula: 'TOMINOR(12.505, "GBP")', gives: 'error: value' },
    ],
    source: currencySource,
    call: ([amount, code]) => {
      const found = currencyOf(code);
      if (found instanceof FormulaError) return found;
      const minor = new Exact(amount).mul(new Exact(10).pow(found.digits));
      return minor.isInteger()
        ? settleNumber(minor)
        : new FormulaError(
            'value',
            `${String(amount)} has more decimals than ${found.code} has; round it first.`,
          );
    },
  }),
  define({
    name: 'FROMMINOR',
    family: 'identifiers',
    meaning: 'An amount from its minor unit: pounds from pence.',
    params: [numberParam('amount'), textParam('currency')],
    result: decimal,
    examples: [
      { formula: 'FROMMINOR(1250, "GBP")', gives: '12.5' },
      { formula: 'FROMMINOR(1250, "JPY")', gives: '1250' },
    ],
    source: currencySource,
    call: ([amount, code]) => {
      const found = currencyOf(code);
      return found instanceof FormulaError
        ? found
        : settleNumber(new Exact(amount).div(new Exact(10).pow(found.digits)));
    },
  }),
  define({
    name: 'CONTAINERDIGIT',
    family: 'identifiers',
    meaning:
      'The check digit of a freight container’s number; a digit that stands there already is not looked at.',
    params: [textParam('number')],
    result: integer,
    examples: [
      { formula: 'CONTAINERDIGIT("CSQU305438")', gives: '3' },
      { formula: 'CONTAINERDIGIT("CSQ305438")', gives: 'error: value' },
    ],
    source: 'ISO 6346, annex A',
    call: ([code]) => containerDigit(code) ?? notContainer(code),
  }),
  define({
    name: 'ISCONTAINER',
    family: 'identifiers',
    meaning: 'Whether a text is a freight container’s number with a right check digit.',
    params: [textParam('number')],
    result: boolean,
    examples: [
      { formula: 'ISCONTAINER("CSQU3054383")', gives: 'TRUE' },
      { formula: 'ISCONTAINER("CSQU3054384")', gives: 'FALSE' },
    ],
    source: 'ISO 6346, annex A',
    call: ([code]) => {
      const plain = code.replace(/[\s-]/g, '');
      return plain.length === 11 && containerDigit(plain) === Number(plain.at(-1));
    },
  }),
  define({
    name: 'UUID5',
    family: 'identifiers',
    meaning:
      'The UUID of a name within a namespace ("dns", "url" or a UUID): the same name always gives the same one.',
    params: [textParam('name'), textParam('namespace')],
    result: text,
    examples: [
      { formula: 'UUID5("www.example.com", "dns")', gives: '"2ed6657d-e927-568b-95e1-2665a8aea6a2"' },
      { formula: 'UUID5("a", "nowhere")', gives: 'error: value' },
    ],
    // 32 hexadecimal digits and four hyphens (RFC 9562, 4).
    ...atMost(36),
    source: 'RFC 9562, 5.5, by the package uuid',
    call: ([name, namespace]) => {
      const space = namespaces[namespace.toLowerCase()] ?? namespace;
      return isUuid(space)
        ? uuid5(name, space)
        : new FormulaError('value', `“${namespace}” is neither "dns", "url" nor a UUID.`);
    },
  }),
  define({
    name: 'CONVERT',
    family: 'identifiers',
    meaning:
      'A measure in another unit, to 15 significant digits (temperatures to 12): "kg", "lb", "t", "m", "ft", "km", "L", "celsius".',
    params: [numberParam('number'), textParam('from'), textParam('to')],
    result: decimal,
    examples: [
      { formula: 'CONVERT(100, "lb", "kg")', gives: '45.359237' },
      { formula: 'CONVERT(1, "kg", "m")', gives: 'error: value' },
    ],
    source: 'name from ODF 1.3 part 4, 6.16.18 CONVERT; units by the package convert',
    call: ([number, from, to]) => convertUnits(number, from, to),
  }),
];

function notContainer(code: string): FormulaError {
  return new FormulaError(
    'value',
    `“${code}” is not a container number: three letters, U, J or Z, and six digits.`,
  );
}

function convertUnits(number: Value, from: string, to: string): Value {
  const unknown = [from, to].find((unit) => !isUnit(unit));
  if (unknown !== undefined) return new FormulaError('value', `“${unknown}” is not a unit.`);
  if (!isUnit(from) || !isUnit(to) || getMeasureKind(from) !== getMeasureKind(to)) {
    return new FormulaError('value', `“${from}” and “${to}” do not measure the same.`);
  }
  const offset = Number(convert(0, from).to(to as never));
  if (offset !== 0) {
    // Temperatures have another zero; the package's own arithmetic is good for twelve digits there.
    return settleNumber(
      new Exact(Number(convert(Number(String(number)), from).to(to as never))).toSignificantDigits(12),
    );
  }
  const factor = new Exact(Number(convert(1, from).to(to as never)));
  return settleNumber(new Exact(String(number)).mul(factor).toSignificantDigits(15));
}
