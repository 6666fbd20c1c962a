import { databaseConnectionSchema, type DatabaseConnection } from '@vast-knot/core';
import type { ConnectorKind } from '../connector';
import { PostgresConnector } from './connector';

export const postgresKind: ConnectorKind<DatabaseConnection> = {
  kind: 'postgres',
  meaning: 'A PostgreSQL database: its tables and views are record types.',
  schema: databaseConnectionSchema,
  open: (connection, parts) => new PostgresConnector(connection, parts),
};
