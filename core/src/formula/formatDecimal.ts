import Decimal from 'decimal.js';
import { tokenize, type FormatToken } from 'numfmt';

/** What the digits of a format stand for: always a digit, a digit or a space, a digit or nothing. */
const placeholders = new Set(['zero', 'qmark', 'hash']);
/** What is written as it stands. */
const literals = new Set(['string', 'char', 'escaped', 'space', 'minus', 'plus', 'paren', 'comma']);
/** What only matters on a screen. */
const unseen = new Set(['color', 'fill']);
const understood = new Set([
  ...placeholders,
  ...literals,
  ...unseen,
  'group',
  'point',
  'percent',
  'scale',
  'skip',
]);

/**
 * Returns a number as a format of digits writes it, from its exact decimal: rounded half away from zero, whatever the number of its
 * digits. Undefined for formats of other kinds (dates, fractions, powers of ten, conditions), which the package numfmt writes.
 * Format codes of ECMA-376, 18.8.31.
 */
export function formatDecimal(code: string, value: Decimal): string | undefined {
  const sections = sectionsOf(code);
  const [first = []] = sections;
  if (sections.length > 3 || sections.some((tokens) => !tokens.every(({ type }) => understood.has(type))))
    return undefined;
  const negative = value.isNegative() && !value.isZero();
  const at = negative ? 1 : value.isZero() ? 2 : 0;
  const own = sections[at];
  const tokens = own && own.length > 0 ? own : first;
  if (!tokens.some(({ type }) => placeholders.has(type))) return undefined;
  const written = writeDigits(tokens, value.abs());
  if (written === undefined) return undefined;
  return negative && tokens === first && /[1-9]/.test(written.digits) ? `-${written.text}` : written.text;
}

function sectionsOf(code: string): readonly (readonly FormatToken[])[] {
  const sections: FormatToken[][] = [[]];
  for (const token of tokenize(code)) {
    if (token.type === 'break') sections.push([]);
    else sections.at(-1)?.push(token);
  }
  return sections;
}

/** Writes a number that is not below zero by one section. */
function writeDigits(
  tokens: readonly FormatToken[],
  value: Decimal,
): { readonly text: string; readonly digits: string } | undefined {
  const point = tokens.findIndex(({ type }) => type === 'point');
  const whole = point < 0 ? tokens : tokens.slice(0, point);
  const fraction = point < 0 ? [] : tokens.slice(point + 1);
  if (fraction.some(({ type }) => type === 'point')) return undefined;
  const grouped = whole.some(({ type }) => type === 'group');
  if (grouped && whole.some(({ type }) => type === 'qmark')) return undefined;
  const percents = tokens.filter(({ type }) => type === 'percent').length;
  const thousands = tokens
    .filter(({ type }) => type === 'scale')
    .reduce((sum, { raw }) => sum + raw.length, 0);
  const places = fraction.filter(({ type }) => placeholders.has(type)).length;
  const rounded = value.mul(`1e${2 * percents - 3 * thousands}`).toFixed(places, Decimal.ROUND_HALF_UP);
  const [integer = '0', decimals = ''] = rounded.split('.');
  const text =
    writeWhole(whole, integer === '0' ? '' : integer, grouped) +
    (point < 0 ? '' : '.') +
    writeFraction(fraction, decimals);
  return { text, digits: integer + decimals };
}

function writeWhole(tokens: readonly FormatToken[], digits: string, grouped: boolean): string {
  let left = tokens.filter(({ type }) => placeholders.has(type)).length;
  // Without a place for it, the whole part is written before the point.
  if (left === 0) return tokens.map(literal).join('') + digits;
  const write = (from: number, to: number) => {
    let text = '';
    for (let place = from; place > to; place--) {
      text += digits[digits.length - place] ?? '';
      if (grouped && place > 1 && place % 3 === 1) text += ',';
    }
    return text;
  };
  let text = '';
  let begun = false;
  for (const token of tokens) {
    if (!placeholders.has(token.type)) {
      text += literal(token);
      continue;
    }
    if (!begun && digits.length > left) text += write(digits.length, left);
    begun = true;
    if (digits.length >= left) text += write(left, left - 1);
    else if (token.type !== 'hash') {
      text += token.type === 'zero' ? '0' : ' ';
      if (grouped && left > 1 && left % 3 === 1) text += ',';
    }
    left--;
  }
  return text;
}

function writeFraction(tokens: readonly FormatToken[], decimals: string): string {
  const last = decimals.replace(/0+$/, '').length;
  let at = 0;
  return tokens
    .map((token) => {
      if (!placeholders.has(token.type)) return literal(token);
      const digit = decimals[at++] ?? '0';
      if (at <= last || token.type === 'zero') return digit;
      return token.type === 'qmark' ? ' ' : '';
    })
    .join('');
}

function literal({ type, value }: FormatToken): string {
  if (type === 'percent') return '%';
  if (type === 'skip') return ' ';
  return literals.has(type) ? String(value) : '';
}
