import { readPointer, stepsOfPointer } from '../formats/jsonPointer';
import type { Json } from '../model/json';

/** Returns a value at a place of its own: `/data/attributes` makes `{ data: { attributes: value } }`. */
export function enveloped(value: Json, place: string | undefined): Json {
  return (stepsOfPointer(place ?? '') ?? []).reduceRight<Json>((inner, step) => ({ [step]: inner }), value);
}

/** Returns what stands at a place; the whole where none is named. */
export function unwrapped(body: unknown, place: string | undefined): unknown {
  return place === undefined || place === '' ? body : readPointer(body, place);
}
