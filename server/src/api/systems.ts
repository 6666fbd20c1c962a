import type { SystemView } from '@vast-knot/core';
import type { Connector } from '../connector/connector';
import { notFound } from '../http/problem';
import { queueConnecting } from '../systems/connecting';
import { readHealth } from '../systems/states';
import { get, post, type AppParts, type Handle, type Route } from './route';

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

/** Returns the connector that an address names. */
async function connectorOf(key: string, { registry }: AppParts): Promise<Connector> {
  const connector = (await registry.get()).connectors.get(key);
  if (!connector) throw notFound(`connected system ${key}`);
  return connector;
}

const probe: Handle<'/systems/:key/probe'> = async (request, response, parts) => {
  response.json(await (await connectorOf(request.params.key, parts)).probe());
};

/** What a system says of its record types, for comparing with what is known of them here. */
const schema: Handle<'/systems/:key/schema'> = async (request, response, parts) => {
  response.json(await (await connectorOf(request.params.key, parts)).learnSchema());
};

/** Asks for a system to be connected anew and asked what changed meanwhile. */
const connect: Handle<'/systems/:key/connect'> = async (request, response, parts) => {
  await connectorOf(request.params.key, parts);
  await queueConnecting(parts.pool, request.params.key);
  response.status(202).json({});
};

const health: Handle<'/systems/health'> = async (_request, response, { pool }) => {
  response.json(await readHealth(pool));
};

/** The systems with their schemas and addresses, and whether they answer; secrets stay here. */
export const systemRoutes: readonly Route[] = [
  get('/systems', 'systems.read', list),
  get('/systems/health', 'systems.read', health),
  post('/systems/:key/connect', 'systems.connect', connect),
  get('/systems/:key/probe', 'systems.read', probe),
  get('/systems/:key/schema', 'systems.read', schema),
];
