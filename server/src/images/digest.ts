import { hash } from 'node:crypto';
import type { JsonObject } from '@vast-knot/core';

/**
 * Returns eight bytes that stand for a record as it was read: another record has other ones. The same values in another order, or in
 * another form, have other ones as well; such a record is looked at whole.
 */
export function digestOf(record: JsonObject): string {
  return hash('sha1', JSON.stringify(record), 'base64url').slice(0, 11);
}
