import Decimal from 'decimal.js';
import { parse, stringify } from 'lossless-json';
import type { Json, JsonObject } from './json';
import { isLongNumber, type LongNumber } from './longNumber';

/** Returns a number as JSON keeps it: as it is where a float has all its digits, and otherwise with them. */
export function jsonNumber(text: string): number | LongNumber {
  const number = Number(text);
  return Number.isFinite(number) && new Decimal(text).eq(number) ? number : { $number: text };
}

/** Returns a scalar as text, a number with all its digits. */
export function scalarText(value: Json | undefined): string {
  return isLongNumber(value) ? value.$number : String(value ?? '');
}

/** Deeper JSON is refused, so that whatever walks it ends. */
const deepest = 200;

/**
 * A number that a float may not keep: of sixteen digits and more, or with an exponent. Most texts hold none and are read by the faster reader,
 * also those with long keys of digits and letters, because a number begins after a sign that no such key holds.
 */
const manyDigits = /[:,[\s]-?\d(?:[\d.]{15}|[\d.]*[eE])/;
/** Most texts hold none of these either, and finding that out takes a third of the time. */
const [longRow, exponent] = [16, /\d[eE]/];
/** A text that is a number and nothing else begins with it. */
const isNumber = /^-?\d/;

/**
 * Reads JSON from outside (RFC 8259) and keeps the digits of its numbers. Of members with one name the last one counts.
 *
 * @throws SyntaxError where the text is no JSON, or is nested too deep.
 */
export function parseJson(text: string): Json {
  const json =
    ((hasLongRow(text) || exponent.test(text)) && manyDigits.test(text)) || isNumber.test(text)
      ? (parse(text, undefined, {
          parseNumber: jsonNumber,
          onDuplicateKey: ({ newValue }) => newValue,
        }) as Json)
      : (JSON.parse(text) as Json);
  if (isDeeper(json, deepest)) throw new SyntaxError(`JSON may be nested ${deepest} deep.`);
  return json;
}

/** Returns whether a text has sixteen digits or points in a row. Such a row has one of them at a sixteenth place of the text. */
function hasLongRow(text: string): boolean {
  for (let at = longRow - 1; at < text.length; at += longRow) {
    if (!isDigitOrPoint(text, at)) continue;
    let [first, next] = [at, at + 1];
    while (isDigitOrPoint(text, first - 1)) first--;
    while (isDigitOrPoint(text, next)) next++;
    if (next - first >= longRow) return true;
  }
  return false;
}

function isDigitOrPoint(text: string, at: number): boolean {
  const code = text.charCodeAt(at);
  return (code >= 48 && code <= 57) || code === 46;
}

/** Writes JSON for the outside, each number with its digits. */
export function printJson(value: unknown, space?: number): string {
  const text = JSON.stringify(value, null, space) ?? 'null';
  // Most values hold no long number, and are written already.
  return text.includes('"$number"') ? (stringify(value, undefined, space, [digits]) ?? text) : text;
}

const digits = {
  test: isLongNumber,
  stringify: (value: unknown) => (isLongNumber(value) ? value.$number : 'null'),
};

/** Every answer of a system is walked through, so nothing is made on the way. */
function isDeeper(json: Json | undefined, most: number): boolean {
  if (typeof json !== 'object' || json === null) return false;
  if (most === 0) return true;
  if (Array.isArray(json)) {
    for (const part of json) if (typeof part === 'object' && isDeeper(part, most - 1)) return true;
    return false;
  }
  const members = json as JsonObject;
  for (const name in members) {
    const part = members[name];
    if (typeof part === 'object' && isDeeper(part, most - 1)) return true;
  }
  return false;
}
