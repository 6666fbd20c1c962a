import { Router } from 'express';
import type { WaitView } from '@vast-knot/core';
import type { Pool } from '../db/pool';

/** Records that rules wait for, those that are due first at the top. */
export function waitRoutes(pool: Pool): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    const { rows } = await pool.query<WaitView>(
      `SELECT json_build_object('id', rule_id, 'name', coalesce(draft->>'name', '')) AS rule,
         json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref, folded, since, due
       FROM waiting_changes LEFT JOIN rules ON rules.id = rule_id ORDER BY due LIMIT 500`,
    );
    response.json(rows);
  });
  return router;
}
