import { httpConnectionSchema, type HttpConnection } from '@vast-knot/core';
import type { ConnectorKind } from '../connector';
import { HttpConnector } from './connector';

export const httpKind: ConnectorKind<HttpConnection> = {
  kind: 'http',
  meaning: 'An application with an HTTP/JSON API.',
  schema: httpConnectionSchema,
  open: (connection, parts) => new HttpConnector(connection, parts),
};
