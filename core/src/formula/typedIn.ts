import type { Json } from '../model/json';
import type { Field } from '../model/system';
import { decoderFor } from './decode';
import { encodeFor, type Encoded } from './encode';

/** Returns what a person typed into a field, as the field stores it; or why it cannot be there. */
export function typedIn(field: Field, json: Json | undefined): Encoded {
  return encodeFor(field, decoderFor(field)(json));
}
