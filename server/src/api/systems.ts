import type { SystemView } from '@vast-knot/core';
import { notFound } from '../http/problem';
import { get, type Handle, type Route } from './route';

const list: Handle<'/systems'> = async (_request, response, { registry }) => {
  const { catalog, connectors } = await registry.get();
  response.json(
    catalog.systems.map((system): SystemView => {
      const connector = connectors.get(system.key);
      return {
        ...system,
        baseUrl: connector?.address ?? '',
        reached: !connector ? 'own' : connector.records ? 'connection' : 'inlet',
      };
    }),
  );
};

const probe: Handle<'/systems/:key/probe'> = async (request, response, { registry }) => {
  const connector = (await registry.get()).connectors.get(request.params.key);
  if (!connector) throw notFound(`connected system ${request.params.key}`);
  response.json(await connector.probe());
};

/** The systems with their schemas and addresses, and whether they answer; secrets stay here. */
export const systemRoutes: readonly Route[] = [
  get('/systems', 'systems.read', list),
  get('/systems/:key/probe', 'systems.read', probe),
];
