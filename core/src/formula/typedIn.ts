import { isBlankJson } from '../model/equal';
import { isoDate } from '../model/isoDate';
import type { Json } from '../model/json';
import { nfc } from '../model/nfc';
import type { Field } from '../model/system';
import { decoderFor } from './decode';
import { encodeFor, type Encoded } from './encode';

/** Returns what a person typed into a field, as the field stores it; or why it cannot be there. */
export function typedIn(field: Field, json: Json | undefined): Encoded {
  return encodeFor(field, decoderFor(field)(json));
}

/** A number of so few digits is exact as a float: its text is what the float is written as (IEEE 754: fifteen decimal digits survive). */
const plainNumber = /^-?(?=[\d.]{1,16}$)(0|[1-9]\d*)(\.\d+)?$/;
const plainDate = /^\d{4}-\d\d-\d\d$/;

/** Returns `typedIn` for one field, for reading many values: what most values are is taken without a step between. */
export function typedReader(field: Field): (json: Json | undefined) => Encoded {
  const decode = decoderFor(field);
  const slowly = (json: Json | undefined) => encodeFor(field, decode(json));
  const { type, maxLength = Infinity, min = -Infinity, max = Infinity } = field;
  switch (type) {
    case 'text':
    case 'reference':
      return (json) => {
        if (typeof json !== 'string' || json === '' || json.length > maxLength) return slowly(json);
        return { json: nfc(json) };
      };
    case 'integer':
    case 'decimal':
      return (json) => {
        if (typeof json !== 'string' || !plainNumber.test(json)) return slowly(json);
        const number = Number(json);
        const fits = number >= min && number <= max && (type === 'decimal' || Number.isInteger(number));
        return fits && !Object.is(number, -0) ? { json: number } : slowly(json);
      };
    case 'date':
      return (json) => {
        if (typeof json !== 'string' || !plainDate.test(json) || isBlankJson(json)) return slowly(json);
        try {
          isoDate(json);
          return { json };
        } catch {
          // No day of the calendar: the slow way says so.
          return slowly(json);
        }
      };
    default:
      return slowly;
  }
}
