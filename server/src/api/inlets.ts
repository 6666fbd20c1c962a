import express, { Router } from 'express';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { takeRows } from '../inlets/rows';

/** Longest file whose rows are taken at once. */
export const fileLimit = 8 * 1024 * 1024;

/** Where files come in whose rows start rules. */
export function inletRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  router.use(express.text({ type: () => true, limit: fileLimit, defaultCharset: 'utf-8' }));

  router.post('/:system/:recordType/rows', async (request, response) => {
    const { system, recordType } = request.params;
    const current = await registry.get();
    const type = current.catalog.recordType(system, recordType);
    if (!current.inlets.has(system) || !type) throw notFound(`inlet ${system} for ${recordType}`);
    const name = typeof request.query['name'] === 'string' ? request.query['name'].slice(0, 120) : 'file.csv';
    const text = typeof request.body === 'string' ? request.body : '';
    if (text.trim() === '') throw new HttpProblem(422, 'Not valid', 'The file is empty.');
    response.status(202).json(await takeRows(pool, current, system, type, { name, text }));
  });
  return router;
}
