import type { Pool } from '../db/pool';
import type { Registry } from '../registry/registry';

/**
 * Reads every record of a system once and keeps it as the last image seen, so that the first change of each is known
 * for what it is. Records that have an image are left alone. Gives the number of images made.
 */
export async function learnRecords(pool: Pool, registry: Registry, system: string): Promise<number> {
  const connector = registry.connectors.get(system);
  const types = registry.catalog.system(system)?.recordTypes ?? [];
  let learnt = 0;
  for (const type of types) {
    let cursor: string | undefined;
    do {
      const page = await connector?.page(type.name, '', cursor, 500);
      const records = page?.records ?? [];
      const { rowCount } = await pool.query(
        `INSERT INTO images (system, record_type, record_id, record)
         SELECT $1, $2, id, record FROM unnest($3::text[], $4::jsonb[]) AS seen (id, record) ON CONFLICT DO NOTHING`,
        [
          system,
          type.name,
          records.map(({ ref }) => ref.id),
          records.map(({ record }) => JSON.stringify(record)),
        ],
      );
      learnt += rowCount ?? 0;
      cursor = page?.next ?? undefined;
    } while (cursor !== undefined);
  }
  return learnt;
}
