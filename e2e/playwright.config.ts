import { defineConfig } from '@playwright/test';

/**
 * Stories told in the real interface, in Debian's Chromium, against whole stacks on databases of their own: one for each worker.
 * The stories of a file stay together.
 */
export default defineConfig({
  testDir: './browser',
  testMatch: '*.spec.ts',
  globalSetup: './browser/startStack.ts',
  outputDir: '../test-results',
  // Two press hard on a machine with two cores: good for finding races, and too much for a verdict.
  workers: Number(process.env['STORY_WORKERS'] ?? 1),
  retries: 0,
  // A story of thirty steps takes half a minute, and twice that on a machine that others use as well.
  timeout: 120_000,
  expect: { timeout: 15_000 },
  reporter: [['list'], ['json']],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
