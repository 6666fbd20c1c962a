import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from '../build.mjs';
import { local } from './folders.mjs';
import { freePort, requireFree } from './ports.mjs';
import { openPostgres } from './postgres.mjs';
import { keepRunning, startNode } from './processes.mjs';
import { say } from './say.mjs';

export const applications = ['customer-book', 'freight-desk', 'fleet-log', 'yard-planner', 'notice-post'];

/** The application without an API: its database is all there is. */
export const register = 'berth-register';

/**
 * Of each event the server makes much that is soon forgotten. It is cleared away early, so that a run over ten thousand records
 * takes little more memory than one over ten; V8 would otherwise let it lie until the heap is several times as large.
 */
export const tidyMemory = ['--max-semi-space-size=8', '--heap-growing-percent=50'];

/**
 * Starts everything: PostgreSQL, the stand-ins, the server with its worker, all on loopback. With `port` the server and
 * the stand-ins take that port and those after it; without, any free ones. `lasting` keeps the data for the next time. `workers` are
 * processes of their own beside the server, and the server is then without one; without `workers` it works itself. What ends by itself is
 * started again. `reach` are further addresses, `host:port`, that it may reach.
 */
export async function startStack({ name, port, lasting = false, workers, reach = [], extra = {} }) {
  await build();
  const secrets = secretsFor(name);
  const ports = await choosePorts(port);
  const running = [];
  const stop = async () => {
    for (const each of running.reverse()) await each.stop();
  };
  try {
    const postgres = await openPostgres({ name, lasting });
    running.push(postgres);
    const database = (key) => postgres.url(key.replaceAll('-', '_'));
    const standins = Object.fromEntries(
      applications.map((key) => [
        key,
        {
          databaseUrl: database(key),
          port: ports[key],
          token: secrets[`${key}-token`],
          secret: `whsec_${secrets.notices}`,
        },
      ]),
    );
    const registerDatabase = new URL(database(register));
    standins[register] = { databaseUrl: registerDatabase.href, token: secrets[`${register}-token`] };
    running.push(
      await keepRunning('The stand-ins', () =>
        startNode('The stand-ins', ['standins/dist/main.mjs'], { STANDINS: JSON.stringify(standins) }),
      ),
    );
    const connections = Object.fromEntries(
      applications.map((key) => [
        key,
        {
          baseUrl: `http://127.0.0.1:${ports[key]}`,
          token: secrets[`${key}-token`],
          webhookSecret: `whsec_${secrets.webhook}`,
        },
      ]),
    );
    connections[register] = {
      baseUrl: `postgres://${registerDatabase.host}${registerDatabase.pathname}`,
      user: `${registerDatabase.pathname.slice(1)}_link`,
      token: secrets[`${register}-token`],
    };
    const url = `http://127.0.0.1:${ports.server}`;
    const env = {
      DATABASE_URL: database('vast_knot'),
      PORT: String(ports.server),
      PUBLIC_URL: url,
      SESSION_SECRET: secrets.session,
      SEAL_KEY: secrets.seal,
      DEMO_FOLDER: 'demo',
      FOLDERS: JSON.stringify(foldersOf(name, ['quay', 'office'])),
      OUT_FOLDERS: JSON.stringify(foldersOf(name, ['handover'])),
      USERS: JSON.stringify({
        admin: { password: secrets.password, role: 'administrator' },
        reader: { password: secrets.password, role: 'reader' },
      }),
      CONNECTIONS: JSON.stringify({
        ...connections,
        // Forms come signed; there is nothing to be read from.
        inlets: { webhookSecret: `whsec_${secrets.webhook}` },
      }),
      ENDPOINTS: JSON.stringify({
        'notice-post': {
          name: 'Notice Post',
          url: `http://127.0.0.1:${ports['notice-post']}/inbox`,
          secret: `whsec_${secrets.notices}`,
        },
      }),
      ALLOWED_OUTBOUND: [
        ...applications.map((key) => `127.0.0.1:${ports[key]}`),
        registerDatabase.host,
        ...reach,
      ].join(','),
      LOG_LEVEL: 'warn',
      ...extra,
    };
    // For processes that are started beside it by hand.
    writeFileSync(join(local, `${name}-env.json`), JSON.stringify(env, null, 2), { mode: 0o600 });
    const started = (what, role) =>
      keepRunning(what, () =>
        startNode(what, [...tidyMemory, 'server/dist/main.mjs'], { ...env, ROLE: role }),
      );
    const server = await started('Vast Knot', workers === undefined ? 'all' : 'api');
    running.push(server);
    const beside = [];
    for (let at = 1; at <= (workers ?? 0); at++) {
      const worker = await started(`Worker ${at}`, 'worker');
      running.push(worker);
      beside.push(worker);
    }
    return {
      url,
      env,
      connections,
      database,
      postgres,
      user: 'admin',
      password: secrets.password,
      stop,
      get server() {
        return server.current;
      },
      get workers() {
        return beside.map(({ current }) => current);
      },
      /** Kept once the server could not be started again. */
      ended: server.givenUp,
      /** Ends the server and starts it anew, from what is built now. */
      restart: () => server.restart(),
      /** Ends the server without warning, and leaves it so. */
      async abandon() {
        const { current } = server;
        const gone = server.stop();
        current.kill('SIGKILL');
        await gone;
      },
    };
  } catch (thrown) {
    await stop();
    throw thrown;
  }
}

async function choosePorts(first) {
  const names = ['server', ...applications];
  const ports = {};
  for (const [at, name] of names.entries()) {
    ports[name] =
      first === undefined
        ? await freePort()
        : await requireFree(first + at, name === 'server' ? 'Vast Knot' : `the stand-in ${name}`, 'PORT');
  }
  return ports;
}

/** Secrets of this installation, made once and kept where only its owner reads. */
function secretsFor(name) {
  const file = join(local, `${name}-secrets.json`);
  const known = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {};
  const secrets = {
    session: randomBytes(32).toString('base64url'),
    seal: randomBytes(32).toString('base64'),
    webhook: randomBytes(24).toString('base64'),
    notices: randomBytes(24).toString('base64'),
    password: randomBytes(9).toString('base64url'),
    ...Object.fromEntries(
      [...applications, register].map((key) => [`${key}-token`, randomBytes(24).toString('base64url')]),
    ),
    ...known,
  };
  if (Object.keys(secrets).length !== Object.keys(known).length) {
    mkdirSync(local, { recursive: true });
    writeFileSync(file, JSON.stringify(secrets, null, 2), { mode: 0o600 });
  }
  return secrets;
}

/** Waits for Ctrl+C or a polite kill, then stops the stack. A second Ctrl+C does not wait. */
export async function untilInterrupted(stack) {
  await new Promise((done) => {
    const stop = () => {
      process.once('SIGINT', () => process.exit(130));
      done();
    };
    process.once('SIGINT', stop);
    process.once('SIGTERM', stop);
    stack.ended.then(done);
  });
  say('\nStopping …');
  await stack.stop();
}

/** Returns folders of a stack by their names, made where they are not there. */
function foldersOf(name, folders) {
  return Object.fromEntries(
    folders.map((folder) => {
      const path = join(local, `${name}-folders`, folder);
      mkdirSync(path, { recursive: true });
      return [folder, path];
    }),
  );
}
