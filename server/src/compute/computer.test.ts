/** Tasks that never end or eat memory: the thread is ended, whoever asked is told, and others are served meanwhile. */
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Registry } from '../registry/registry';
import { BeyondLimits, ThreadComputer } from './computer';

jest.setTimeout(60_000);

/** A registry with one system, which takes three seconds to give a record. */
const slow = { get: () => new Promise((done) => setTimeout(done, 3000)) };
const registry = {
  stamp: 's1',
  connectors: new Map([['slow', { records: slow }]]),
  stores: new Map([['slow', slow]]),
} as unknown as Registry;
const hostile = pathToFileURL(resolve(__dirname, '../fixtures/threads/hostile.mjs'));
let computer: ThreadComputer;
beforeAll(() => {
  computer = new ThreadComputer(hostile, { threads: 2, seconds: 2, megabytes: 64 });
});
afterAll(() => computer.stop());

const ask = (what: string, kind: 'check' | 'preview' = 'check') =>
  computer.run(kind, { do: what } as never, registry) as Promise<unknown>;

test('a task that never ends is ended, and the threads go on', async () => {
  const hanging = ask('hang');
  expect(await ask('answer')).toBe('answer with s1');
  await expect(hanging).rejects.toThrow(BeyondLimits);
  await expect(hanging).rejects.toThrow('It took more than 2 seconds.');
  expect(await ask('answer')).toBe('answer with s1');
});

test('a task that eats memory ends its thread and not the process', async () => {
  await expect(ask('swell')).rejects.toThrow('It needed more than 64 MB of memory.');
  expect(await ask('answer')).toBe('answer with s1');
});

test('more hostile tasks than there are threads hold nobody up for longer than their limit', async () => {
  const all = await Promise.allSettled([
    ask('hang'),
    ask('hang'),
    ask('swell'),
    ask('answer'),
    ask('answer'),
  ]);
  expect(all.slice(0, 3).map(({ status }) => status)).toEqual(['rejected', 'rejected', 'rejected']);
  // Those that had to wait for a thread are answered, and not refused for having waited.
  expect(all.slice(3).map((one) => 'value' in one && one.value)).toEqual([
    'answer with s1',
    'answer with s1',
  ]);
  expect(await ask('answer')).toBe('answer with s1');
});

test('the time in which a task waits for a slow system is not its own, and holds up no findings', async () => {
  const waiting = Array.from({ length: 10 }, () => ask('wait', 'preview'));
  const begun = Date.now();
  expect(await ask('answer')).toBe('answer with s1');
  expect(Date.now() - begun).toBeLessThan(2500);
  // More of them than there are threads: the last ones wait for their turn, which is no time of theirs either.
  expect(await Promise.all(waiting)).toEqual(waiting.map(() => 'wait with s1'));
});
