import { isJsonObject, type Json, type JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { isLongNumber } from '../model/longNumber';

/** How a value is the one that is looked for. */
export type ValueMatch = 'exact' | 'normalised' | 'part';

/** Fewer digits are no telephone number, nor anything else that is told by its digits alone. */
const fewestDigits = 7;

/** Tells whether a value is the one looked for: as it stands, or but for case, blanks, and the way a number is written. */
export function valueMatcher(text: string): (json: Json) => ValueMatch | undefined {
  const wanted = normal(text);
  const digits = significantDigits(text);
  return (json) => {
    if (json === null || (typeof json === 'object' && !isLongNumber(json))) return undefined;
    const held = scalarText(json);
    if (held === text) return 'exact';
    if (wanted !== '' && normal(held) === wanted) return 'normalised';
    const own = digits === undefined ? undefined : significantDigits(held);
    if (digits === undefined || own === undefined) return undefined;
    return own.endsWith(digits) || digits.endsWith(own) ? 'normalised' : undefined;
  };
}

/** As `valueMatcher`, and also of values that hold the text as a part. */
export function partMatcher(text: string): (json: Json) => ValueMatch | undefined {
  const whole = valueMatcher(text);
  const wanted = normal(text);
  return (json) => {
    const match = whole(json);
    if (match || wanted === '' || json === null || (typeof json === 'object' && !isLongNumber(json)))
      return match;
    return normal(scalarText(json)).includes(wanted) ? 'part' : undefined;
  };
}

/** Returns the fields of a record that hold a value, with how they do; elements of lists count for their field. */
export function fieldsHolding(
  record: JsonObject,
  matches: (json: Json) => ValueMatch | undefined,
  path = '',
): readonly { readonly path: string; readonly value: Json; readonly match: ValueMatch }[] {
  return Object.entries(record).flatMap(([name, value = null]) => {
    const at = path === '' ? name : `${path}.${name}`;
    if (isJsonObject(value)) return fieldsHolding(value, matches, at);
    const parts: readonly Json[] = Array.isArray(value) ? (value as readonly Json[]) : [value];
    const match = parts.map(matches).find((each) => each !== undefined);
    return match ? [{ path: at, value, match }] : [];
  });
}

function normal(text: string): string {
  return text.normalize('NFC').trim().replace(/\s+/gu, ' ').toLocaleLowerCase('en');
}

/** Returns the digits of what looks like a telephone number, without the zeros that begin a national or international one. */
export function significantDigits(text: string): string | undefined {
  if (!/^[+\d(][\d\s().\-/]*$/.test(text.trim())) return undefined;
  const digits = text.replace(/\D/g, '').replace(/^0+/, '');
  return digits.length >= fewestDigits ? digits : undefined;
}
