import { ensurePackages } from './machine/packages.mjs';
import { takeLock } from './machine/lock.mjs';
import { run, say } from './machine/say.mjs';
import { startStack, untilInterrupted } from './machine/stack.mjs';

/** `npm start`: installs what is missing, prepares the databases, builds, loads the demo, serves. */
await run(async () => {
  takeLock();
  await ensurePackages();
  const stack = await startStack({ name: 'demo', port: Number(process.env.PORT ?? 4600), lasting: true });
  say('');
  say(`  Vast Knot    ${stack.url}`);
  say(
    `  Sign in      ${stack.user}, password ${stack.password}   (reader has the same password and may only look)`,
  );
  for (const [key, { baseUrl }] of Object.entries(stack.connections)) say(`  ${key.padEnd(12)} ${baseUrl}`);
  say('');
  say('  Ctrl+C stops everything. The data stays; npm run reset restores the demo.');
  await untilInterrupted(stack);
});
