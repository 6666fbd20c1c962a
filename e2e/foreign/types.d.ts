declare module 'json-server' {
  import type { IncomingMessage, ServerResponse } from 'node:http';
  /** An application of the framework that json-server brings with it. */
  interface Application {
    (request: IncomingMessage, response: ServerResponse): void;
    use(...handlers: unknown[]): void;
  }
  export function create(): Application;
  export function router(data: object): unknown;
  export function defaults(options: { logger: boolean }): unknown[];
}
declare module 'express-pouchdb' {
  import type { IncomingMessage, ServerResponse } from 'node:http';
  export default function expressPouch(
    database: unknown,
    options: object,
  ): (request: IncomingMessage, response: ServerResponse) => void;
}
declare module 'pouchdb-core' {
  interface PouchStatic {
    plugin(plugin: unknown): PouchStatic;
    defaults(options: object): PouchStatic;
    new (name: string): {
      bulkDocs(docs: readonly object[]): Promise<unknown>;
      get(id: string): Promise<Record<string, unknown>>;
      put(doc: object): Promise<unknown>;
    };
  }
  const pouch: PouchStatic;
  export default pouch;
}
declare module 'pouchdb-adapter-memory';
declare module 'pouchdb-mapreduce';
