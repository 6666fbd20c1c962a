import { WorkerClient } from './askWorker';

/** The worker of this page. */
export const worker = new WorkerClient(
  () => new Worker(new URL('./work.worker.ts', import.meta.url), { type: 'module' }),
);
