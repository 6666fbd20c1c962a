import type { Pool } from '../db/pool';
import { pagesOf } from '../connector/recordStore';
import type { Registry } from '../registry/registry';
import { keepFirstSeen } from './images';

/**
 * Reads every record of a system once and keeps it as the last image seen, so that the first change of each is known
 * for what it is. Records that have an image are left alone. Returns the number of images made.
 */
export async function learnRecords(pool: Pool, registry: Registry, system: string): Promise<number> {
  const store = registry.connectors.get(system)?.records;
  let learnt = 0;
  for (const { name } of (store && registry.catalog.system(system)?.recordTypes) ?? []) {
    for await (const page of store ? pagesOf(store, { type: name, limit: 500 }) : [])
      learnt += await keepFirstSeen(pool, page);
  }
  return learnt;
}
