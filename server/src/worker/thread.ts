import { parentPort, workerData } from 'node:worker_threads';
import type { Config } from '../config/config';
import { ThreadComputer } from '../compute/computer';
import { openParts } from './parts';
import { Computing } from './computing';
import type { Told, Wish } from './supervisor';
import { Worker } from './worker';

/** The worker in a thread of its own: with its own connections to the database, and its own copy of what is defined. */
async function main(config: Config): Promise<void> {
  const tell = (told: Told) => parentPort?.postMessage(told);
  const parts = openParts(config);
  const computing = new Computing(({ event, computes }) => tell({ is: 'computing', event, computes }));
  // It stands beside this file where it is built.
  const computer = new ThreadComputer(new URL('./compute.mjs', import.meta.url), {
    ...config.computeLimits,
    threads: 1,
  });
  await parts.standing.start();
  const worker = await Worker.start({
    ...parts,
    config,
    computing,
    computer,
    broken(why) {
      parts.log.error(why, 'the worker lost the database');
      process.exit(1);
    },
  });
  parentPort?.on('message', (wish: Wish) => {
    if (wish === 'are you alive') tell({ is: 'alive' });
    else
      void worker
        .stop()
        .then(() => computer.stop())
        .then(() => parts.close())
        .finally(() => process.exit(0));
  });
  tell({ is: 'ready' });
}

void main(workerData as Config);
