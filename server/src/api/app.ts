import express, { type Express } from 'express';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { answerProblems, nothingHere } from '../http/problem';
import { authorise, sessionRoutes, sessions } from './session';
import { inletRoutes } from './inlets';
import { intakeRoutes } from './hooks';
import { endpointRoutes, messageRoutes } from './messages';
import { recordRoutes } from './records';
import type { RegistryCache } from '../registry/registry';
import { requestRoutes } from './requests';
import { ruleRoutes } from './rules';
import { runRoutes } from './runs';
import { historyRoutes } from './history';
import { valueRoutes } from './values';
import { sampleRoutes } from './samples';
import type { NoticeStream } from './stream';
import { systemRoutes } from './systems';
import { waitRoutes } from './waits';
import { rowsLimit, tableRoutes } from './tables';

export interface AppParts {
  readonly config: Config;
  readonly pool: Pool;
  readonly registry: RegistryCache;
  readonly stream: NoticeStream;
  readonly seal: Seal;
  readonly log: Logger;
}

/** The HTTP side: `/hooks` for systems, `/api` for people who are signed in, and the pages. */
export function createApp({ config, pool, registry, stream, seal, log }: AppParts): Express {
  const app = express();
  app.disable('x-powered-by');
  // First, because its messages come in masses, and no browser ever shows its answers.
  app.use('/hooks', intakeRoutes(pool, registry, config));
  app.use(
    '/hooks',
    nothingHere,
    answerProblems((error) => log.error(error)),
  );
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          // Mantine sets sizes in style attributes.
          styleSrc: ["'self'", "'unsafe-inline'"],
          workerSrc: ["'self'", 'blob:'],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: config.publicUrl.startsWith('https:'),
    }),
  );
  app.use(
    pinoHttp({
      logger: log,
      useLevel: 'debug',
      redact: ['req.headers.cookie', 'req.headers["webhook-signature"]'],
    }),
  );
  app.get('/health', async (_request, response) => {
    await pool.query('SELECT 1');
    response.json({ ok: true });
  });

  const api = express.Router();
  const json = express.json({ limit: config.bodyLimit });
  api.use(sessions(pool, config));
  api.use('/session', json, sessionRoutes(pool));
  api.use(authorise);
  api.use('/tables', express.json({ limit: rowsLimit }), tableRoutes(pool, registry));
  api.use('/inlets', inletRoutes(pool, registry));
  api.use(json);
  api.use('/systems', systemRoutes(registry));
  api.use('/records', recordRoutes(pool, registry));
  api.use('/rules', ruleRoutes(pool, registry));
  api.use('/rules', requestRoutes(pool, registry));
  api.use('/samples', sampleRoutes(pool, registry));
  api.use('/history', historyRoutes(pool, registry));
  api.use('/values', valueRoutes(registry));
  api.use('/runs', runRoutes(pool, registry));
  api.use('/waits', waitRoutes(pool));
  api.use('/messages', messageRoutes(pool));
  api.use(
    '/endpoints',
    endpointRoutes(pool, registry, (text) => seal.seal(text)),
  );
  api.use('/stream', stream.routes());
  api.use(nothingHere);
  app.use('/api', api);

  if (existsSync(config.webFolder)) servePages(app, config.webFolder);
  app.use(nothingHere);
  app.use(answerProblems((error) => log.error(error)));
  return app;
}

function servePages(app: Express, folder: string): void {
  app.use(
    '/assets',
    express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }),
  );
  app.use(express.static(folder, { index: false, dotfiles: 'ignore' }));
  app.get(/^\/(?!api\/|hooks\/)/, (_request, response) => {
    response.set('cache-control', 'no-cache').sendFile('index.html', { root: folder });
  });
}
