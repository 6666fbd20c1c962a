import { Router } from 'express';
import type { SystemView } from '@vast-knot/core';
import type { RegistryCache } from '../registry/registry';

/** The systems with their schemas and addresses; secrets stay here. */
export function systemRoutes(registry: RegistryCache): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    const { catalog, connections, inlets } = await registry.get();
    const views: SystemView[] = catalog.systems.map((system) => ({
      ...system,
      baseUrl: connections.get(system.key)?.baseUrl ?? '',
      reached: inlets.has(system.key) ? 'inlet' : connections.has(system.key) ? 'connection' : 'own',
    }));
    response.json(views);
  });
  return router;
}
