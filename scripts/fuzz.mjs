import { spawn } from 'node:child_process';
import { root } from './machine/folders.mjs';

/**
 * `npm run fuzz -- 200000 [SEED]`: so many made-up formulas, files, events and bundles; what fails is printed with the seed that makes
 * it again.
 */
const [runs = '200000', seed] = process.argv.slice(2);
const child = spawn('npx', ['--no-install', 'jest', 'fuzz'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, FUZZ_RUNS: runs, ...(seed !== undefined && { FUZZ_SEED: seed }) },
});
child.on('exit', (code) => process.exit(code ?? 1));
