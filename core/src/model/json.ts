import Joi from 'joi';
import { isLongNumber } from './longNumber';

/** JSON as systems send and receive it. */
export type Json = null | boolean | number | string | Json[] | JsonObject;
export interface JsonObject {
  [key: string]: Json | undefined;
}

/** True for a JSON object, false for arrays, null and scalars, numbers with their digits among them. */
export function isJsonObject(value: unknown): value is JsonObject {
  return typeof value === 'object' && value !== null && !Array.isArray(value) && !isLongNumber(value);
}

/** Reads `address.town` from a record. Only own properties count; a missing step gives undefined. */
export function readPath(record: JsonObject | null | undefined, path: string): Json | undefined {
  return pathReader(path)(record);
}

/** Returns the reader of one path, for reading it from many records. */
export function pathReader(path: string): (record: JsonObject | null | undefined) => Json | undefined {
  if (!path.includes('.')) {
    // Most names mean nothing to an object by itself, and need not be asked for twice.
    return path in Object.prototype
      ? (record) => (record && Object.hasOwn(record, path) ? record[path] : undefined)
      : (record) => (record ? record[path] : undefined);
  }
  const steps = path.split('.');
  const [outer = '', inner = ''] = steps;
  if (steps.length === 2) {
    return (record) => {
      const object = record && Object.hasOwn(record, outer) ? record[outer] : undefined;
      return isJsonObject(object) && Object.hasOwn(object, inner) ? object[inner] : undefined;
    };
  }
  return (record) => {
    let here: Json | undefined = record;
    for (const step of steps) {
      if (!isJsonObject(here) || !Object.hasOwn(here, step)) return undefined;
      here = here[step];
    }
    return here;
  };
}

/** Returns a copy of the record in which `path` holds `value`; objects on the way are copied, or made when absent. */
export function writePath(record: JsonObject, path: string, value: Json | undefined): JsonObject {
  const [step = '', ...rest] = path.split('.');
  const copy: JsonObject = { ...record };
  if (rest.length === 0) {
    if (value === undefined) delete copy[step];
    else Object.defineProperty(copy, step, { value, enumerable: true, writable: true, configurable: true });
    return copy;
  }
  const inner = Object.hasOwn(record, step) ? record[step] : undefined;
  const next = writePath(isJsonObject(inner) ? inner : {}, rest.join('.'), value);
  Object.defineProperty(copy, step, { value: next, enumerable: true, writable: true, configurable: true });
  return copy;
}

/** A record as systems give it: any JSON by names of up to 200 characters. */
export const documentSchema = Joi.object().pattern(/^[\s\S]{1,200}$/, Joi.any());

/** Returns whether two JSON values are the same, member by member, in whatever order; numbers and texts are not compared by type. */
export function sameJson(one: Json | undefined, other: Json | undefined): boolean {
  if (one === other) return true;
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return false;
  if (Array.isArray(one))
    return (
      Array.isArray(other) &&
      one.length === other.length &&
      one.every((each, at) => sameJson(each, other[at]))
    );
  if (Array.isArray(other)) return false;
  const names = Object.keys(one);
  return (
    names.length === Object.keys(other).length &&
    names.every((name) => Object.hasOwn(other, name) && sameJson(one[name], other[name]))
  );
}
