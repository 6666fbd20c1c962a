import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './build.mjs';
import { local } from './machine/folders.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { keepRunning, startNode } from './machine/processes.mjs';
import { run, say, Trouble } from './machine/say.mjs';
import { tidyMemory } from './machine/stack.mjs';

/**
 * `npm run worker`, `npm run api`: one more process of an installation, on this machine or another one, against its database. The settings
 * come from the environment (docs/operate.md); without DATABASE_URL, from the demo that runs here. A process that ends by itself is
 * started again.
 */
await run(async () => {
  const role = process.argv[2] ?? 'worker';
  await ensurePackages();
  await build();
  const env = { ...settings(), ROLE: role, ...(role === 'api' && { PORT: process.env.PORT ?? '0' }) };
  const kept = await keepRunning(role, () =>
    startNode(role, [...tidyMemory, 'server/dist/main.mjs'], env, (line) => say(`  ${role}  ${line}`)),
  );
  say(`One more ${role} is at work. Ctrl+C stops it.`);
  await new Promise((done) => {
    process.once('SIGINT', done);
    process.once('SIGTERM', done);
    void kept.givenUp.then(done);
  });
  await kept.stop();
});

function settings() {
  if (process.env.DATABASE_URL) return process.env;
  const file = join(local, 'demo-env.json');
  if (!existsSync(file))
    throw new Trouble('Say with DATABASE_URL where the database is, or start the demo first: npm start.');
  return JSON.parse(readFileSync(file, 'utf8'));
}
