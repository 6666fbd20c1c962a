import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Agent } from 'undici';
import { httpConnectionSchema, type HttpConnection, type Json, type RecordType } from '@vast-knot/core';
import { withoutSecret, type Exchanged } from '../exchanged';
import { Gates } from '../gates';
import { HttpConnector } from './connector';

/** A request as the application got it. */
export interface SeenRequest {
  readonly method: string;
  /** As it came over the wire. */
  readonly url: string;
  readonly headers: IncomingHttpHeaders;
  readonly text: string;
  readonly body: unknown;
}

/** What the application answers. */
export interface Reply {
  readonly status?: number;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

const pier: RecordType = {
  name: 'pier',
  label: 'Pier',
  plural: 'Piers',
  idField: 'id',
  nameField: 'name',
  fields: [
    { name: 'id', label: 'Id', type: 'text' },
    { name: 'name', label: 'Name', type: 'text' },
    { name: 'depth', label: 'Depth', type: 'decimal' },
    {
      name: 'address',
      label: 'Address',
      type: 'object',
      fields: [{ name: 'town', label: 'Town', type: 'text' }],
    },
  ],
};

/** An application of the test, which answers as it is told. */
export class TestApplication {
  readonly seen: SeenRequest[] = [];
  readonly exchanged: Exchanged[] = [];
  reply: (request: SeenRequest) => Reply = () => ({ status: 404 });
  private server: Server | undefined;
  host = '';

  async start(): Promise<void> {
    this.server = createServer((request, response) => {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        const text = Buffer.concat(chunks).toString();
        const { method = '', url = '', headers } = request;
        const isJson = headers['content-type']?.includes('json') ?? false;
        const seen = {
          method,
          url,
          headers,
          text,
          body: isJson && text !== '' ? (JSON.parse(text) as Json) : undefined,
        };
        this.seen.push(seen);
        const { status = 200, body, headers: more = {} } = this.reply(seen);
        response.writeHead(status, { 'content-type': 'application/json', ...more });
        response.end(
          Buffer.isBuffer(body) || typeof body === 'string'
            ? body
            : body === undefined
              ? ''
              : JSON.stringify(body),
        );
      });
    });
    await new Promise<void>((done) => this.server?.listen(0, '127.0.0.1', done));
    this.host = `127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  stop(): Promise<void> {
    return new Promise((done) => this.server?.close(() => done()));
  }

  /** Returns a connector to this application: as usual, but for what is given. */
  connector(
    usual: Partial<HttpConnection['usual']> = {},
    more: Partial<HttpConnection> = {},
    token = 's3cret-key',
    reach: readonly string[] = [],
  ): HttpConnector {
    const described: HttpConnection = {
      kind: 'http',
      format: 2,
      baseUrl: `http://${this.host}`,
      signIn: { kind: 'bearer' },
      usual: {
        list: { path: '{path}', items: '', paging: { kind: 'none' }, filter: { kind: 'none' } },
        one: { kind: 'address', path: '{path}/{id}' },
        version: { kind: 'none' },
        ...usual,
      },
      recordTypes: { pier: { path: '/piers' } },
      ...more,
    };
    const { value, error } = httpConnectionSchema.validate(described);
    if (error) throw error;
    return new HttpConnector(value, {
      system: { key: 'quay', name: 'Quay', tag: 'QU', hue: 1, recordTypes: [pier] },
      gateWith: (limits) => new Gates().of('quay', limits),
      token,
      dispatcher: new Agent(),
      allowedOutbound: [this.host, ...reach],
      watch: (watched) => this.exchanged.push(withoutSecret(watched)),
    });
  }
}

/** Returns an edit of a pier. */
export const editPier = (id: string, path: string, before: Json, after: Json, version?: string) => ({
  change: {
    kind: 'edit' as const,
    ref: { system: 'quay', recordType: 'pier', id },
    edits: [{ path, before, after }],
  },
  key: `key-${id}`,
  ...(version !== undefined && { version }),
});

/** Returns the creation of a pier. */
export const createPier = (record: Record<string, Json>, again?: true) => ({
  change: { kind: 'create' as const, ref: { system: 'quay', recordType: 'pier', id: 'new-1' }, record },
  key: 'key-new',
  ...(again && { again }),
});
