import { createHmac, randomBytes } from 'node:crypto';
import type { Keyed } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { Seal } from '../db/seal';

/** Where the key is sealed for. */
export const ofMasking = () => 'masking';

/**
 * Returns how personal values are masked here: by HMAC with SHA-256 (RFC 2104) and a key that this installation makes when it is first wanted.
 * The key leaves the server nowhere, and is kept with no sample.
 */
export async function maskingOf(runner: Runner, seal: Seal): Promise<Keyed> {
  await runner.query('UPDATE installation SET mask_key = $1 WHERE mask_key IS NULL', [
    seal.seal(randomBytes(32).toString('base64'), ofMasking()),
  ]);
  const { rows } = await runner.query<{ key: Buffer }>('SELECT mask_key AS key FROM installation');
  const sealed = rows[0]?.key;
  if (!sealed) throw new Error('the row of the installation is not there');
  const key = Buffer.from(seal.open(sealed, ofMasking()), 'base64');
  return (text) => createHmac('sha256', key).update(text).digest().readUInt32BE(0);
}
