import { createServer, type Server } from 'node:http';
import { createApi } from './api';
import { openDatabase } from './database';
import type { Application } from './definition';
import { DialBoard } from './dials';
import { Outbox } from './outbox';
import { Store } from './store';

export interface StandinOptions {
  readonly databaseUrl: string;
  readonly migrations: string;
  readonly port: number;
  readonly token: string;
  /** With which messages to it are signed, for one that receives some. */
  readonly secret?: string;
  readonly log: (line: string) => void;
}

export interface Standin {
  readonly url: string;
  stop(): Promise<void>;
}

/** Starts one application on loopback: database, API, deliveries. Port 0 takes a free one. */
export async function startStandin(application: Application, options: StandinOptions): Promise<Standin> {
  const pool = await openDatabase(options.databaseUrl, options.migrations, application);
  const dials = await DialBoard.open(pool);
  const outbox = new Outbox(pool, application.dialect, options.log, () => dials.current.disorder);
  const store = new Store(pool, application, () => outbox.wake());
  const server = createServer(createApi(store, dials, options.token, options.secret));
  await listen(server, options.port);
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : options.port;
  return {
    url: `http://127.0.0.1:${port}`,
    async stop() {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await outbox.stop();
      await pool.end();
    },
  };
}

function listen(server: Server, port: number): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', fail);
    server.listen(port, '127.0.0.1', () => {
      server.off('error', fail);
      done();
    });
  });
}
