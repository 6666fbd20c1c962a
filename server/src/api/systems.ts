import Joi from 'joi';
import { randomUUID } from 'node:crypto';
import {
  affectedBy,
  bundledSystem,
  bundleText,
  emptyBundle,
  Catalog,
  ownDefinition,
  refreshed,
  schemaChanges,
  type SchemaRefresh,
  type SystemView,
  type WentOn,
} from '@vast-knot/core';
import type { Connector } from '../connector/connector';
import { inTransaction } from '../db/pool';
import { learnTypes } from '../drafts/learning';
import { takeOut } from '../drafts/start';
import { goOnWith } from '../pauses/goOn';
import { findingsOf } from './computed';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { queueConnecting } from '../systems/connecting';
import { readExchanges, readMessages } from '../systems/journal';
import { keepSecret, pauseSystem, readSystems } from '../systems/repository';
import { readSamples } from '../samples/repository';
import { noteSchemaLook, readHealth } from '../systems/states';
import { goingOnBody } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

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

/** Tries a system at once, also one that is left alone for a while; when it answers, what waits for it goes on. */
const tryNow: Handle<'/systems/:key/try'> = async (request, response, parts) => {
  const connector = await connectorOf(request.params.key, parts);
  parts.outside.gates.tryNow(request.params.key);
  response.json(await connector.probe());
};

/** What a system says of its record types, for comparing with what is known of them here. */
const schema: Handle<'/systems/:key/schema'> = async (request, response, parts) => {
  response.json(await learnTypes(await connectorOf(request.params.key, parts), parts));
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

/** What a system says of its record types by now, and which rules that run would have mistakes with it. Nothing is changed. */
const refresh: Handle<'/systems/:key/refresh'> = async (request, response, parts) => {
  const { key } = request.params;
  const connector = await connectorOf(key, parts);
  const current = await parts.registry.get();
  const known = current.catalog.system(key);
  if (!known) throw notFound(`connected system ${key}`);
  const recordTypes = refreshed(known.recordTypes, await learnTypes(connector, parts));
  const changes = schemaChanges(known.recordTypes, recordTypes);
  const others = current.catalog.systems.filter((system) => system.key !== ownDefinition.key);
  const systems = others.map((system) => (system.key === key ? { ...known, recordTypes } : system));
  const next = {
    ...current,
    stamp: `${current.stamp}/${randomUUID()}`,
    catalog: new Catalog([...systems, ownDefinition]),
  };
  const rules = current.rules.map(({ rule }) => rule);
  const found = changes.length === 0 ? [] : await findingsOf(rules, rules, next, parts);
  const before = changes.length === 0 ? [] : await findingsOf(rules, rules, current, parts);
  const broken = rules.flatMap((rule, at) => {
    const had = new Set(before[at]?.map(({ message }) => message));
    const findings = (found[at] ?? []).filter(
      ({ severity, message }) => severity === 'error' && !had.has(message),
    );
    return findings.length === 0 ? [] : [{ rule: rule.id, name: rule.name, findings }];
  });
  const affected =
    changes.length === 0
      ? { samples: [], tables: [] }
      : affectedBy(key, [known.recordTypes, recordTypes], {
          samples: await readSamples(parts.pool),
          tables: [...current.tables.values()].map(({ table }) => table),
          rules,
        });
  await noteSchemaLook(parts.pool, key, { changes: changes.length, problem: null });
  response.json({ changes, broken, ...affected } satisfies SchemaRefresh);
};

/** What went over the wire lately, the newest first. */
const exchanges: Handle<'/systems/:key/exchanges'> = async (request, response, parts) => {
  await connectorOf(request.params.key, parts);
  response.json(await readExchanges(parts.pool, request.params.key));
};

/** What the system told lately, as it came, the newest first. */
const messages: Handle<'/systems/:key/messages'> = async (request, response, parts) => {
  await connectorOf(request.params.key, parts);
  response.json(await readMessages(parts.pool, request.params.key));
};

/** The system as a bundle, to be carried to another environment: without its address, and without secrets. */
const bundle: Handle<'/systems/:key/bundle'> = async (request, response, { pool, seal }) => {
  const { key } = request.params;
  const [kept] = await readSystems(pool, seal, [key]);
  if (!kept) throw notFound(`connected system ${key}`);
  response
    .set('content-disposition', `attachment; filename="${key}.json"`)
    .type('application/json')
    .send(bundleText({ ...emptyBundle, systems: [bundledSystem(kept.definition, { ...kept.connection })] }));
};

/** Pauses a system: nothing is asked of it, and what is for it waits, in order. */
const pause: Handle<'/systems/:key/pause'> = async (request, response, { pool }) => {
  const { key } = request.params;
  if (!(await pauseSystem(pool, key, true))) throw notFound(`connected system ${key}`);
  response.status(202).json({});
};

/** Lets a paused system go on: with what waited for it, or without where it is to be dropped, and with what changed meanwhile. */
const goOn: Handle<'/systems/:key/go-on'> = async (request, response, { pool }) => {
  const { key } = request.params;
  const { drop } = parsed(goingOnBody, request.body ?? {});
  const count = await inTransaction(pool, async (client) => {
    const before = await pauseSystem(client, key, false);
    if (!before) throw notFound(`connected system ${key}`);
    // What waits for something else than the pause is not dropped by a second press.
    if (!before.was) return 0;
    return goOnWith(client, [key], drop ? personOf(request) : null);
  });
  response.status(202).json({ count } satisfies WentOn);
};

/** Takes a system out; the draft that it becomes is the way back. */
const leave: Handle<'/systems/:key'> = async (request, response, parts) => {
  const { key } = request.params;
  await connectorOf(key, parts);
  const draft = await inTransaction(parts.pool, (client) =>
    takeOut(client, parts.seal, { key, by: personOf(request) }),
  );
  if (draft === undefined) {
    const because = 'It only tells, and is part of this installation.';
    throw new HttpProblem(422, 'Not taken out', because);
  }
  response.json({ draft });
};

const secretBody = Joi.object<{ value: string }>({ value: Joi.string().min(1).max(4000).required() });

/** Gives a system another secret; what is on its way goes on with the one before. */
const secret: Handle<'/systems/:key/secrets/:name'> = async (request, response, { pool, seal, registry }) => {
  const { key, name } = request.params;
  if (name !== 'token' && name !== 'webhook') throw notFound(`secret ${name}`);
  const { value } = parsed(secretBody, request.body);
  if (!(await registry.get()).connectors.has(key)) throw notFound(`connected system ${key}`);
  await keepSecret(pool, seal, { system: key, name, value });
  response.json({});
};

/** The systems with their schemas and addresses, and whether they answer; secrets stay here. */
export const systemRoutes: readonly Route[] = [
  get('/systems', 'systems.read', list),
  get('/systems/health', 'systems.read', health),
  post('/systems/:key/connect', 'systems.connect', connect),
  get('/systems/:key/probe', 'systems.read', probe),
  post('/systems/:key/try', 'systems.connect', tryNow),
  get('/systems/:key/schema', 'systems.read', schema),
  get('/systems/:key/refresh', 'systems.read', refresh),
  get('/systems/:key/exchanges', 'systems.change', exchanges),
  get('/systems/:key/bundle', 'systems.change', bundle),
  get('/systems/:key/messages', 'systems.change', messages),
  post('/systems/:key/pause', 'systems.change', pause),
  post('/systems/:key/go-on', 'systems.change', goOn, { body: goingOnBody }),
  put('/systems/:key/secrets/:name', 'systems.change', secret, { body: secretBody }),
  remove('/systems/:key', 'systems.change', leave),
];
