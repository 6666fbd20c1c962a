import express, { Router, type Express } from 'express';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { jsonBody } from '../http/jsonBody';
import { answerProblems, nothingHere } from '../http/problem';
import { ownPagesOnly, requireRight, sessions } from '../http/session';
import { healthRoutes } from './health';
import { metricsRoute } from './metrics';
import { intakeRoutes } from './hooks';
import type { AppParts } from './route';
import { routes } from './routes';
import { sessionRoutes } from './session';

/** Returns the HTTP side: `/hooks` for systems, `/api` for people who are signed in, and the pages. */
export function createApp(parts: AppParts): Express {
  const { config, pool, registry, outside, log } = parts;
  const app = express();
  app.disable('x-powered-by');
  // First, because its messages come in masses, and no browser ever shows its answers.
  app.use('/hooks', intakeRoutes(pool, registry, config, outside.came));
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
  healthRoutes(app, pool);
  if (config.metricsToken !== undefined) app.get('/metrics', metricsRoute(pool, config.metricsToken));
  app.use('/api', api(parts));

  if (existsSync(config.webFolder)) servePages(app, config.webFolder);
  app.use(nothingHere);
  app.use(answerProblems((error) => log.error(error)));
  return app;
}

/** Returns every route with the right that it wants, checked before its body is read. */
function api(parts: AppParts): Router {
  const router = Router();
  const json = jsonBody(parts.config.bodyLimit);
  // What is told is of its moment, and may be personal: no browser keeps it, nor takes what it has for what there is.
  router.use((_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  router.use(sessions(parts.pool, parts.config));
  router.use('/session', ...json, sessionRoutes(parts.pool));
  router.use(ownPagesOnly);
  for (const { method, path, right, reads, handle } of routes) {
    router[method](path, requireRight(right), ...(reads.length > 0 ? reads : json), (request, response) =>
      handle(request, response, parts),
    );
  }
  router.use(signedInOnly);
  router.use(nothingHere);
  return router;
}

/** Those who are not signed in do not learn which addresses there are. */
const signedInOnly = requireRight('systems.read');

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
