import type Joi from 'joi';
import type { Connector, ConnectorKind, ConnectorParts } from './connector';
import { httpKind, type HttpConnection } from './http/kind';
import { inletKind, type InletConnection } from './inlet';

/** How a system is reached, as data. Each kind has a file or folder here and a line in the list below. */
export type Connection = HttpConnection | InletConnection;

/** The kinds of connection. */
const connectorKinds: {
  readonly [Kind in Connection['kind']]: ConnectorKind<Extract<Connection, { kind: Kind }>>;
} = {
  http: httpKind,
  inlet: inletKind,
};

/**
 * Returns the schema for a connection as a file or the database holds it. One without a kind is from the first version of the
 * format, in which only the members told what it was.
 */
export function connectionFrom(json: Readonly<Record<string, unknown>>): {
  readonly schema: Joi.ObjectSchema<Connection>;
  readonly json: Readonly<Record<string, unknown>>;
} {
  const kind = json['kind'] ?? ('recordTypes' in json ? 'http' : 'inlet');
  const schemas: Readonly<Record<string, Joi.ObjectSchema>> = {
    http: httpKind.schema,
    inlet: inletKind.schema,
  };
  return { schema: schemas[String(kind)] ?? httpKind.schema, json: { ...json, kind } };
}

/** Opens the connector of a connection. */
export function openConnector(connection: Connection, parts: ConnectorParts): Connector {
  switch (connection.kind) {
    case 'http':
      return connectorKinds.http.open(connection, parts);
    case 'inlet':
      return connectorKinds.inlet.open(connection, parts);
  }
}
