import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { chromium } from './machine/debian.mjs';
import { local, root } from './machine/folders.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { openPostgres } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';

const results = join(local, 'test-results');

const npx = (...args) => ({ command: 'npx', args: ['--no-install', ...args] });
const npm = (...args) => ({ command: 'npm', args: ['run', '--silent', ...args] });

/** What is held before anything runs; the long ones first, so that the lanes end together. */
const checks = [
  { name: 'Lint', ...npx('eslint', '.') },
  { name: 'Types of web', ...npx('tsc', '-p', 'web') },
  { name: 'Format', ...npx('prettier', '--check', '--log-level', 'warn', '.') },
  { name: 'Types of server, stand-ins, tests and scripts', ...npx('tsc', '-p', '.') },
  { name: 'Types of core', ...npx('tsc', '-p', 'core') },
  { name: 'Arrows between the parts', ...npm('arrows') },
  { name: 'Reference pages are those of the code', ...npm('docs', '--', '--check') },
];

/**
 * `npm test`: every check and every test, on a fresh machine too; the last line counts them. `npm test -- PATH…` runs the tests of
 * these files and folders alone, with a database where they need one.
 */
await run(async () => {
  await ensurePackages();
  const paths = process.argv.slice(2);
  const told = paths.filter((path) => path.endsWith('.spec.ts') || path.startsWith('e2e/browser'));
  const tests = paths.filter((path) => !told.includes(path));
  const everything = paths.length === 0;
  rmSync(results, { recursive: true, force: true });
  mkdirSync(results, { recursive: true });
  const counts = { passed: 0, failed: 0 };
  if (everything) await runChecks(counts);
  if (everything || tests.length > 0) await runTests(counts, tests);
  if (everything || told.length > 0) await runStories(counts, told);
  say(`\n${counts.passed} passed, ${counts.failed} failed`);
  if (counts.failed > 0) process.exitCode = 1;
});

async function runChecks(counts) {
  await inLanes(checks, async ({ name, command, args }) => {
    const { code, output } = await ran(command, args, { kept: true });
    say(`\n— ${name}${code === 0 ? '' : `\n${output}`}`);
    counts[code === 0 ? 'passed' : 'failed']++;
  });
}

async function runTests(counts, paths) {
  say('\n— Unit tests, and tests against PostgreSQL and the stand-ins');
  const postgres = await openPostgres({ name: 'test', lasting: false });
  try {
    const file = join(results, 'jest.json');
    // All cores: by itself jest leaves one free, which is half of a machine with two.
    const workers = `--maxWorkers=${availableParallelism()}`;
    const args = ['--no-install', 'jest', workers, '--json', `--outputFile=${file}`, '--silent', ...paths];
    const { code } = await ran('npx', args, { env: { TEST_POSTGRES: postgres.url('') } });
    addJest(counts, file, code);
  } finally {
    await postgres.stop();
  }
}

async function runStories(counts, paths) {
  say('\n— The real interface, in Chromium');
  const browser = await chromium();
  await build();
  const file = join(results, 'playwright.json');
  const stories = ['--no-install', 'playwright', 'test', '--config', 'e2e/playwright.config.ts', ...paths];
  const { code } = await ran('npx', stories, {
    env: { CHROMIUM: browser, PLAYWRIGHT_JSON_OUTPUT_NAME: file },
  });
  addPlaywright(counts, file, code);
}

/** Does work for each of a list, two at a time. */
async function inLanes(list, work) {
  const left = [...list];
  const lane = async () => {
    for (let next = left.shift(); next; next = left.shift()) await work(next);
  };
  await Promise.all([lane(), lane()]);
}

/** Runs a command, shown as it goes; `kept`, what it says comes with its code. */
function ran(command, args, { env = {}, kept = false } = {}) {
  return new Promise((done) => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: ['ignore', ...(kept ? ['pipe', 'pipe'] : ['inherit', 'inherit'])],
      env: { ...process.env, npm_config_loglevel: 'error', ...env },
    });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (chunk) => (output += chunk));
    child.once('error', ({ message }) => done({ code: 1, output: message }));
    child.once('close', (code) => done({ code: code ?? 1, output }));
  });
}

/** A runner that ended badly without a failed test (a file that does not load, say) counts as one failure. */
function add(counts, passed, failed, code) {
  counts.passed += passed;
  counts.failed += failed === 0 && code !== 0 ? 1 : failed;
}

function addJest(counts, file, code) {
  const { numPassedTests, numFailedTests, numFailedTestSuites } = readJson(file);
  add(counts, numPassedTests ?? 0, Math.max(numFailedTests ?? 0, numFailedTestSuites ?? 0), code);
}

function addPlaywright(counts, file, code) {
  const { stats } = readJson(file);
  add(counts, (stats?.expected ?? 0) + (stats?.flaky ?? 0), stats?.unexpected ?? 0, code);
}

function readJson(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    // The runner did not get so far as to write its results.
    return {};
  }
}
