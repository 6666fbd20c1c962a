import { watch } from 'node:fs';
import { join } from 'node:path';
import { bundleServer } from './build.mjs';
import { root } from './machine/folders.mjs';
import { takeLock } from './machine/lock.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { run, say } from './machine/say.mjs';
import { startStack, untilInterrupted } from './machine/stack.mjs';

/** Changes that follow each other within this time are one. */
const quietMs = 200;

/**
 * `npm run dev`: as `npm start`, on the same database, with pages that change as they are edited and a server that is built and
 * started anew when its code changes.
 */
await run(async () => {
  takeLock();
  await ensurePackages();
  const stack = await startStack({ name: 'demo', port: Number(process.env.PORT ?? 4600), lasting: true });
  const { createServer } = await import('vite');
  const pages = await createServer({
    root: join(root, 'web'),
    configFile: join(root, 'web/vite.config.ts'),
    server: { host: '127.0.0.1', port: 5173, proxy: { '/api': stack.url } },
  });
  await pages.listen();
  const stopWatching = whenChanged(['server/src', 'server/migrations', 'core/src'], async () => {
    try {
      await bundleServer();
      await stack.restart();
      say('The server is started anew.');
    } catch (thrown) {
      say(`The server is not started: ${thrown.message}`);
    }
  });
  say('');
  say(`  Pages      ${pages.resolvedUrls.local[0]}   (change as they are edited)`);
  say(`  Server     ${stack.url}   (started anew when server/ or core/ changes)`);
  say(`  Sign in    ${stack.user}, password ${stack.password}`);
  say('  Ctrl+C stops everything. npm run db opens a console on its database.');
  await untilInterrupted(stack);
  stopWatching();
  await pages.close();
});

/** Does work after files in these folders changed, one change after the other. Returns what ends it. */
function whenChanged(folders, work) {
  let timer;
  let turn = Promise.resolve();
  const changed = (_event, file) => {
    if (!/\.(ts|sql|json)$/.test(file ?? '') || /\.test\.ts$/.test(file)) return;
    clearTimeout(timer);
    timer = setTimeout(() => (turn = turn.then(work)), quietMs);
  };
  const watchers = folders.map((folder) => watch(join(root, folder), { recursive: true }, changed));
  return () => watchers.forEach((watcher) => watcher.close());
}
