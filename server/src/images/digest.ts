import { hash } from 'node:crypto';
import type { JsonObject } from '@vast-knot/core';

/** Twelve of them are 48 bits. */
const digits = 12;

/**
 * Returns a number of 48 bits that stands for a record as it was read: another record has another one. The same values in another order,
 * or in another form, have another one as well; such a record is looked at whole.
 */
export function digestOf(record: JsonObject): number {
  return parseInt(hash('sha1', JSON.stringify(record), 'hex').slice(0, digits), 16);
}
