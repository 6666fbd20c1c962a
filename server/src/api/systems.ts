import { WorkspaceError, type SystemView } from '@vast-knot/core';
import { HttpProblem, notFound } from '../http/problem';
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

/** What a system says of its record types, for comparing with what is known of them here. */
const schema: Handle<'/systems/:key/schema'> = async (request, response, { registry }) => {
  const connector = (await registry.get()).connectors.get(request.params.key);
  if (!connector) throw notFound(`connected system ${request.params.key}`);
  try {
    response.json(await connector.learnSchema());
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    throw new HttpProblem(502, 'Not learnt', thrown.problem.message);
  }
};

/** The systems with their schemas and addresses, and whether they answer; secrets stay here. */
export const systemRoutes: readonly Route[] = [
  get('/systems', 'systems.read', list),
  get('/systems/:key/probe', 'systems.read', probe),
  get('/systems/:key/schema', 'systems.read', schema),
];
