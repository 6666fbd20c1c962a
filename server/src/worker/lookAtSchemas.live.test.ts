import { pino } from 'pino';
import { Agent } from 'undici';
import { WorkspaceError, type CatalogueTable } from '@vast-knot/core';
import type { SelfDescription } from '../connector/connector';
import { Gates } from '../connector/gates';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookSystem, deskSystem, openHarbour } from '../fixtures/harbour';
import { insertSystem, readConnection } from '../systems/repository';
import { readHealth } from '../systems/states';
import { lookAtSchemas } from './lookAtSchemas';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  const connection = readConnection({ events: { types: {}, record: '/record' } });
  for (const [position, definition] of [bookSystem, deskSystem].entries())
    await insertSystem(database.pool, { position, definition, connection });
});
afterAll(() => database.close());

const column = (name: string) => ({
  name,
  written: 'text',
  type: 'text',
  length: null,
  precision: null,
  scale: null,
  notNull: false,
  hasDefault: false,
  computed: false,
  mayWrite: true,
  values: null,
  comment: '',
});
const table = (...names: string[]): CatalogueTable => ({
  schema: 'public',
  table: 'company',
  kind: 'table',
  comment: '',
  columns: names.map(column),
  key: ['id'],
  unique: [],
  references: [],
  checks: [],
  mayCreate: true,
  mayChange: true,
  mayRemove: true,
  rows: 0,
});

async function look(document: () => Promise<SelfDescription>) {
  const { registry } = openHarbour(database.pool);
  const book = registry.connectors.get('book');
  if (!book) throw new Error('the harbour has a book');
  const connectors = new Map([
    ...registry.connectors,
    ['book', { ...book, describes: true, document }] as const,
  ]);
  const get = () => Promise.resolve({ ...registry, connectors });
  await lookAtSchemas({
    pool: database.pool,
    registry: { get, recent: get },
    outside: { dispatcher: new Agent(), gates: new Gates(), allowedOutbound: [] },
    log: pino({ level: 'silent' }),
  });
  const health = await readHealth(database.pool);
  return new Map(health.map(({ system, schema }) => [system, schema]));
}
const described =
  (...names: string[]) =>
  () =>
    Promise.resolve<SelfDescription>({
      kind: 'catalogue',
      tables: [table(...names)],
      recordTypes: { company: { schema: 'public', table: 'company' } },
    });

test('at night it is noted by how much differs what a system says; of one that says nothing, nothing is', async () => {
  const known = bookSystem.recordTypes[0]?.fields.map(({ name }) => name) ?? [];
  const [, ...rest] = known.filter((name) => name !== 'id');
  const schemas = await look(described('id', ...rest, 'mail'));
  // One field went and one came, and the revision is text by now.
  expect(schemas.get('book')).toMatchObject({ problem: null });
  expect(schemas.get('book')?.changes).toBeGreaterThanOrEqual(2);
  expect(schemas.get('desk')).toBeNull();
});

test('a system that does not answer is told of, and holds up no other', async () => {
  const problem = { code: 'unavailable', message: 'Book does not answer.', retry: true } as const;
  const schemas = await look(() => Promise.reject(new WorkspaceError(problem)));
  expect(schemas.get('book')).toMatchObject({ changes: 0, problem: 'Book does not answer.' });
});
