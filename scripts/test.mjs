import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './build.mjs';
import { chromium } from './machine/debian.mjs';
import { local, root } from './machine/folders.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { openPostgres } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';

const results = join(local, 'test-results');

/** `npm test`: every check and every test, on a fresh machine too; the last line counts them. */
await run(async () => {
  await ensurePackages();
  const browser = await chromium();
  rmSync(results, { recursive: true, force: true });
  mkdirSync(results, { recursive: true });
  const tally = { passed: 0, failed: 0 };
  const check = async (name, command, args) => {
    say(`\n— ${name}`);
    const code = await shown(command, args);
    tally[code === 0 ? 'passed' : 'failed']++;
  };
  await check('Types of core', 'npx', ['--no-install', 'tsc', '-p', 'core']);
  await check('Types of server, stand-ins, tests and scripts', 'npx', ['--no-install', 'tsc', '-p', '.']);
  await check('Types of web', 'npx', ['--no-install', 'tsc', '-p', 'web']);
  await check('Lint', 'npx', ['--no-install', 'eslint', '.']);
  await check('Format', 'npx', ['--no-install', 'prettier', '--check', '--log-level', 'warn', '.']);
  await check('Arrows between the parts', 'npm', ['run', '--silent', 'arrows']);
  await check('Reference pages are those of the code', 'npm', ['run', '--silent', 'docs', '--', '--check']);

  say('\n— Unit tests, and tests against PostgreSQL and the stand-ins');
  const postgres = await openPostgres({ name: 'test', lasting: false });
  try {
    const file = join(results, 'jest.json');
    const args = ['--no-install', 'jest', '--json', `--outputFile=${file}`, '--silent', '--forceExit'];
    const code = await shown('npx', args, { TEST_POSTGRES: postgres.url('') });
    addJest(tally, file, code);
  } finally {
    await postgres.stop();
  }

  say('\n— The real interface, in Chromium');
  await build();
  const file = join(results, 'playwright.json');
  const code = await shown(
    'npx',
    ['--no-install', 'playwright', 'test', '--config', 'e2e/playwright.config.ts'],
    {
      CHROMIUM: browser,
      PLAYWRIGHT_JSON_OUTPUT_NAME: file,
    },
  );
  addPlaywright(tally, file, code);

  say(`\n${tally.passed} passed, ${tally.failed} failed`);
  if (tally.failed > 0) process.exitCode = 1;
});

function shown(command, args, env = {}) {
  return new Promise((done) => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, npm_config_loglevel: 'error', ...env },
    });
    child.once('error', () => done(1));
    child.once('exit', (code) => done(code ?? 1));
  });
}

/** A runner that ended badly without a failed test (a file that does not load, say) counts as one failure. */
function add(tally, passed, failed, code) {
  tally.passed += passed;
  tally.failed += failed === 0 && code !== 0 ? 1 : failed;
}

function addJest(tally, file, code) {
  const { numPassedTests, numFailedTests, numFailedTestSuites } = readJson(file);
  add(tally, numPassedTests ?? 0, Math.max(numFailedTests ?? 0, numFailedTestSuites ?? 0), code);
}

function addPlaywright(tally, file, code) {
  const { stats } = readJson(file);
  add(tally, (stats?.expected ?? 0) + (stats?.flaky ?? 0), stats?.unexpected ?? 0, code);
}

function readJson(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    // The runner did not get so far as to write its results.
    return {};
  }
}
