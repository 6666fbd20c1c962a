import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import * as jsonServer from 'json-server';
import expressPouch from 'express-pouchdb';
import Pouch from 'pouchdb-core';
import memory from 'pouchdb-adapter-memory';
import mapReduce from 'pouchdb-mapreduce';

/** A server of other people's making, at work in this process. */
export interface Foreign {
  readonly url: string;
  readonly host: string;
  /** Requests that it got: method and address. */
  readonly seen: string[];
  stop(): Promise<void>;
}

/**
 * json-server 0.17: page numbers and `Link` headers, filters by field, PUT and PATCH one by one; no versions, no events, no bulk, no keys
 * against repeats.
 */
export async function startJsonServer(data: object): Promise<Foreign> {
  const app = jsonServer.create();
  app.use(jsonServer.defaults({ logger: false }));
  app.use(jsonServer.router(data));
  return started(app);
}

/**
 * express-pouchdb 4: documents in envelopes, offsets and totals, revisions in the record, whole documents put back, and ids alone in what
 * it answers to a write.
 */
export async function startDocumentServer(
  name: string,
  documents: readonly object[],
): Promise<Foreign & { readonly documents: InstanceType<typeof Pouch> }> {
  const Database = Pouch.plugin(memory).plugin(mapReduce).defaults({ adapter: 'memory' });
  const app = expressPouch(Database, {
    inMemoryConfig: true,
    mode: 'minimumForPouchDB',
    logPath: '/dev/null',
  });
  // Made after the server, which has to hear of it.
  const database = new Database(name);
  await database.bulkDocs(documents);
  return { ...(await started(app)), documents: database };
}

async function started(app: (request: IncomingMessage, response: ServerResponse) => void): Promise<Foreign> {
  const seen: string[] = [];
  const server: Server = createServer((request, response) => {
    seen.push(`${request.method} ${request.url}`);
    app(request, response);
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    url: `http://${host}`,
    host,
    seen,
    stop: () =>
      new Promise((done) => {
        server.closeAllConnections();
        server.close(() => done());
      }),
  };
}
