import Joi from 'joi';
import { fromFirstFormat, isJsonObject } from '@vast-knot/core';
import type { Connector, ConnectorKind, ConnectorParts } from './connector';
import { httpKind } from './http/kind';
import { inletKind } from './inlet';
import { postgresKind } from './postgres/kind';

/** The kinds of connection. Each has a file or folder here, and its line. */
const connectorKinds = { http: httpKind, postgres: postgresKind, inlet: inletKind } as const;

type ConnectionOf<K> = K extends ConnectorKind<infer C> ? C : never;
/** How a system is reached, as data. */
export type Connection = ConnectionOf<(typeof connectorKinds)[keyof typeof connectorKinds]>;

/** The list has each kind under its own name. */
const kinds = connectorKinds as unknown as Readonly<Record<Connection['kind'], ConnectorKind<Connection>>>;

/**
 * Returns the schema for a connection as a file or the database holds it. One without a kind is from the first version of the
 * format, in which only the members told what it was.
 */
export function connectionFrom(json: Readonly<Record<string, unknown>>): {
  readonly schema: Joi.ObjectSchema<Connection>;
  readonly json: Readonly<Record<string, unknown>>;
} {
  const kind = String(json['kind'] ?? ('recordTypes' in json ? 'http' : 'inlet'));
  const known = Object.values<ConnectorKind<Connection>>(kinds).find((each) => each.kind === kind);
  return { schema: known?.schema ?? anyKind, json: inThisFormat({ ...json, kind }) };
}

/** Returns a connection of an earlier version of the format as this one has it. */
function inThisFormat(json: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  if (json['kind'] === 'http' && !('format' in json)) return fromFirstFormat(json);
  if (json['kind'] !== 'inlet' || !('events' in json)) return json;
  const { events, ...rest } = json;
  return { ...rest, told: { kind: 'cloud events', ...(isJsonObject(events) && events) } };
}

/** Returns what is wrong with a connection; undefined where nothing is. */
export function connectionProblem(connection: Connection): string | undefined {
  return kinds[connection.kind].schema.validate(connection, { abortEarly: true }).error?.message;
}

/** Refuses a kind that there is not, with the names of those that there are. */
const anyKind = Joi.object<Connection>({ kind: Joi.valid(...Object.keys(connectorKinds)) }).unknown();

/** Opens the connector of a connection. */
export function openConnector(connection: Connection, parts: ConnectorParts): Connector {
  return kinds[connection.kind].open(connection, parts);
}
