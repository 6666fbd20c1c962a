import { FormulaError, type Span } from './error';

type TokenKind = 'text' | 'number' | 'name' | 'symbol' | 'end';

export interface Token {
  readonly kind: TokenKind;
  /** For text and names what is meant, without quotes; for the rest the characters themselves. */
  readonly value: string;
  /** A name that stood in single quotes: never a function or TRUE. */
  readonly quoted: boolean;
  readonly place: Span;
}

const spaces = /\s+/y;
const number = /(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?/y;
const name = /[\p{L}_$][\p{L}\p{N}_$]*/uy;
const symbol = /<>|<=|>=|[-+*/^&=<>(),;{}.%]/y;

/** Splits formula text into tokens, or says where it cannot. */
export function tokenize(source: string): readonly Token[] | FormulaError {
  const tokens: Token[] = [];
  let at = 0;
  const take = (pattern: RegExp): string | undefined => {
    pattern.lastIndex = at;
    return pattern.exec(source)?.[0];
  };
  while (at < source.length) {
    const start = at;
    const push = (kind: TokenKind, value: string, length: number, quoted = false) => {
      at = start + length;
      tokens.push({ kind, value, quoted, place: { start, end: at } });
    };
    const space = take(spaces);
    if (space) {
      at += space.length;
      continue;
    }
    const first = source[at];
    if (first === '"' || first === "'") {
      const quoted = readQuoted(source, at, first);
      if (quoted instanceof FormulaError) return quoted;
      push(first === '"' ? 'text' : 'name', quoted.value, quoted.length, true);
      continue;
    }
    const digits = take(number);
    const word = take(name);
    const sign = take(symbol);
    // A dot that follows a name walks into it; only elsewhere may it begin a number such as .5
    const afterName = tokens.at(-1)?.kind === 'name' && tokens.at(-1)?.place.end === start;
    if (digits && !(first === '.' && afterName)) push('number', digits, digits.length);
    else if (word) push('name', word, word.length);
    else if (sign) push('symbol', sign, sign.length);
    else {
      const character = String.fromCodePoint(source.codePointAt(at) ?? 0);
      return new FormulaError('syntax', `The character “${character}” has no meaning here.`, {
        start,
        end: start + character.length,
      });
    }
  }
  tokens.push({ kind: 'end', value: '', quoted: false, place: { start: source.length, end: source.length } });
  return tokens;
}

/** Quotes stand twice inside quotes, as in OpenFormula. */
function readQuoted(
  source: string,
  start: number,
  quote: string,
): { readonly value: string; readonly length: number } | FormulaError {
  let value = '';
  for (let at = start + 1; at < source.length; at++) {
    if (source[at] !== quote) value += source[at];
    else if (source[at + 1] === quote) {
      value += quote;
      at++;
    } else return { value, length: at + 1 - start };
  }
  const what = quote === '"' ? 'text' : 'name';
  return new FormulaError('syntax', `This ${what} is not closed: a ${quote} is missing at its end.`, {
    start,
    end: source.length,
  });
}
