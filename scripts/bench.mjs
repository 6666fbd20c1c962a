import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { bundle } from './build.mjs';
import { local, root } from './machine/folders.mjs';
import { command, ensurePackages } from './machine/packages.mjs';
import { run } from './machine/say.mjs';

/** `npm run bench`: measures the code bundled as the product is. */
await run(async () => {
  await ensurePackages();
  mkdirSync(local, { recursive: true });
  await bundle('bench/main.ts', join(root, 'bench/dist/main.mjs'));
  await command(process.execPath, ['bench/dist/main.mjs', ...process.argv.slice(2)], {
    failure: 'The benchmark failed.',
  });
});
