import { Router } from 'express';
import { tablesReadBy, type LookupTable, type TableView } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { listRules } from '../rules/repository';

/** Lookup tables with the rules that read them. */
export function tableRoutes(pool: Pool): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    const [tables, rules] = await Promise.all([
      pool.query<{ definition: LookupTable }>('SELECT definition FROM tables ORDER BY name'),
      listRules(pool),
    ]);
    const readers = rules.map(({ id, draft, published }) => ({
      id,
      name: draft.name,
      tables: new Set([...tablesReadBy(draft), ...(published ? tablesReadBy(published.body) : [])]),
    }));
    const views = tables.rows.map(({ definition }): TableView => ({
      ...definition,
      usedBy: readers
        .filter((reader) => reader.tables.has(definition.name))
        .map(({ id, name }) => ({ id, name })),
    }));
    response.json(views);
  });
  return router;
}
