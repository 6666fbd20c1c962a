import express, { Router, type Express, type Request, type RequestHandler } from 'express';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { jsonBody } from '../http/jsonBody';
import type { Right } from '@vast-knot/core';
import { answerProblems, HttpProblem, nothingHere } from '../http/problem';
import { ownPagesOnly, requireRight, sessions, whoAsks } from '../people/session';
import { wellFormedAddress } from '../http/wellFormed';
import { addressOf, atMostInMinute, atMostInMinuteOfAll } from '../http/limits';
import { acting, tellRefused } from './acting';
import { audited } from './audited';
import { costly } from './costly';
import { healthRoutes } from './health';
import { metricsRoute } from './metrics';
import { failureAsPage, formPages } from './formPages';
import { intakeRoutes } from './hooks';
import type { AppParts } from './route';
import { routes } from './routes';
import { sessionRoutes } from './session';

/** Returns the HTTP side: `/hooks` for systems, `/api` for people who are signed in, and the pages. */
export function createApp(parts: AppParts): Express {
  const { config, pool, registry, outside, log } = parts;
  const app = express();
  app.disable('x-powered-by');
  // A proxy that takes care of TLS says so itself; whoever is no proxy of ours is not believed.
  if (config.trustProxy !== undefined) app.set('trust proxy', config.trustProxy);
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

  app.use(
    '/forms',
    formPages(parts),
    answerProblems((error) => log.error(error), failureAsPage),
  );
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
  router.use(wellFormedAddress);
  router.use(sessions(parts.pool, parts.config));
  router.use(whoAsks(parts.pool));
  router.use(ownPagesOnly);
  router.use('/session', ...json, sessionRoutes(parts.pool, parts.seal));
  const byPerson = (request: Request) => request.person?.name ?? addressOf(request);
  router.use(atMostInMinute(parts.config.mostInMinute.all, byPerson));
  const fewer = atMostInMinuteOfAll(parts.pool, {
    name: 'costly',
    most: parts.config.mostInMinute.costly,
    keyOf: byPerson,
  });
  // Whoever is not let do something is written down, and answered as anybody.
  const rightTo = (address: string, right: Right): RequestHandler => {
    const require = requireRight(right);
    return (request, response, next) =>
      require(request, response, (problem?: unknown) => {
        if (!(problem instanceof HttpProblem) || problem.status !== 403) return next(problem);
        tellRefused(parts.pool, request, address, problem.detail).then(() => next(problem), next);
      });
  };
  for (const { method, path, right, takes, handle } of routes) {
    const limits = costly.has(`${method} ${path}`) ? [fewer] : [];
    const read = takes.reads ?? json;
    const act = audited.get(`${method} ${path}`);
    const handled = act ? acting(act, handle) : handle;
    router[method](path, rightTo(`${method} ${path}`, right), ...limits, ...read, (request, response) =>
      handled(request, response, parts),
    );
  }
  router.use(signedInOnly);
  router.use(nothingHere);
  return router;
}

/** Those who are not signed in do not learn which addresses there are. */
const signedInOnly = requireRight('systems.read');

function servePages(app: Express, folder: string): void {
  // What is not there is told by us: the answer of the file system would name our folders.
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y' }), nothingHere);
  app.use(express.static(folder, { index: false, dotfiles: 'ignore' }));
  app.get(/^\/(?!api\/|hooks\/|forms\/)/, (_request, response) => {
    response.set('cache-control', 'no-cache').sendFile('index.html', { root: folder });
  });
}
