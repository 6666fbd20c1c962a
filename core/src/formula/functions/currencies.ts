import currencies from 'currency-codes';
import { FormulaError } from '../error';

/** A currency of ISO 4217 and how many decimals its amounts have. */
export interface Currency {
  readonly code: string;
  readonly digits: number;
}

/** What ISO 4217 has assigned since the data of the package were published, with the decimals of each. */
const assignedSince: Readonly<Record<string, number>> = { XCG: 2, XAD: 2 };

/** What ISO 4217 has withdrawn since then, with the currency that came in its place. */
const withdrawnSince: Readonly<Record<string, string>> = { ANG: 'XCG', BGN: 'EUR', CUC: 'CUP' };

/** Codes whose minor unit ISO 4217 gives as “N.A.”: metals, units of account, tests, and none at all. */
const withoutMinorUnit: ReadonlySet<string> = new Set([
  'XAG',
  'XAU',
  'XBA',
  'XBB',
  'XBC',
  'XBD',
  'XDR',
  'XPD',
  'XPT',
  'XSU',
  'XTS',
  'XUA',
  'XXX',
]);

/**
 * Returns the currency of a code of three letters, large or small, as ISO 4217 stands at the beginning of 2026. An error for a
 * code that was withdrawn, and for one whose amounts have no decimals to speak of (“N.A.”).
 */
export function currencyOf(given: string): Currency | FormulaError {
  const code = given.trim().toUpperCase();
  const successor = Object.hasOwn(withdrawnSince, code) ? withdrawnSince[code] : undefined;
  if (successor !== undefined) {
    return new FormulaError(
      'value',
      `“${code}” was withdrawn from ISO 4217; ${successor} came in its place.`,
    );
  }
  if (withoutMinorUnit.has(code)) {
    return new FormulaError('value', `“${code}” has no minor unit in ISO 4217 (“N.A.”).`);
  }
  const digits = Object.hasOwn(assignedSince, code) ? assignedSince[code] : currencies.code(code)?.digits;
  return digits === undefined
    ? new FormulaError('value', `“${given}” is not a currency code of three letters (ISO 4217).`)
    : { code, digits };
}
