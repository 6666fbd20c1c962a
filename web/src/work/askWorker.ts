import type { StoredRecord } from '@vast-knot/core';
import type { Known } from './known';
import type { Answer, Message } from './work.worker';
import type { WorkInput, WorkName, WorkOutput } from './works';

let worker: Worker | undefined;
let told: Known | undefined;
/** Records are many: those that the worker was lent last stay with it. */
let lent: readonly StoredRecord[] | undefined;
let lastId = 0;
const waiting = new Map<number, (answer: Answer) => void>();

function post(message: Message): void {
  if (!worker) {
    worker = new Worker(new URL('./work.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Answer>) => {
      waiting.get(data.id)?.(data);
      waiting.delete(data.id);
    };
  }
  worker.postMessage(message);
}

/** Has the worker compute something. Schemas and tables are sent only when they are others than before. */
export function askWorker<N extends WorkName>(
  work: N,
  input: WorkInput<N>,
  known: Known,
): Promise<WorkOutput<N>> {
  if (told !== known) post({ known });
  told = known;
  const id = ++lastId;
  const { records, ...rest } = input as { readonly records?: readonly StoredRecord[] };
  if (records && records !== lent) post({ records });
  if (records) lent = records;
  post({ id, work, input: rest, lent: records !== undefined });
  return new Promise((done, fail) => {
    // The worker answers with what the named work gives.
    waiting.set(id, (answer) =>
      'output' in answer ? done(answer.output as WorkOutput<N>) : fail(new Error(answer.error)),
    );
  });
}
