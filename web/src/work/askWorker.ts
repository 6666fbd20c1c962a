import type { StoredRecord } from '@vast-knot/core';
import type { Known } from './known';
import type { Answer, Message } from './work.worker';
import type { WorkInput, WorkName, WorkOutput } from './works';

/** What is used of a worker. */
export type WorkerPort = Pick<Worker, 'postMessage' | 'terminate'> & {
  onmessage: ((event: MessageEvent<Answer>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
  onmessageerror: ((event: MessageEvent) => void) | null;
};

const notLoaded =
  'What computes this page could not be loaded. Load the page again; if it stays, tell whoever runs the server.';

/** Has one worker compute, and takes a new one when that one fails. */
export class WorkerClient {
  private worker: WorkerPort | undefined;
  private told: Known | undefined;
  /** Records are many: those that the worker was lent last stay with it. */
  private lent: readonly StoredRecord[] | undefined;
  private lastId = 0;
  private readonly waiting = new Map<number, (answer: Answer) => void>();

  constructor(private readonly open: () => WorkerPort) {}

  /**
   * Has the worker compute something. Schemas and tables are sent only when they are others than before. Fails with a sentence
   * when the work fails or the worker could not be loaded.
   */
  ask<N extends WorkName>(work: N, input: WorkInput<N>, known: Known): Promise<WorkOutput<N>> {
    if (this.told !== known) this.post({ known });
    this.told = known;
    const id = ++this.lastId;
    const { records, ...rest } = input as { readonly records?: readonly StoredRecord[] };
    if (records && records !== this.lent) this.post({ records });
    if (records) this.lent = records;
    return new Promise((done, fail) => {
      // The worker answers with what the named work gives.
      this.waiting.set(id, (answer) =>
        'output' in answer ? done(answer.output as WorkOutput<N>) : fail(new Error(answer.error)),
      );
      this.post({ id, work, input: rest, lent: records !== undefined });
    });
  }

  private post(message: Message): void {
    if (!this.worker) {
      this.worker = this.open();
      this.worker.onmessage = ({ data }) => this.answer(data);
      this.worker.onerror = ({ message: said }) => this.giveUp(said ? `${notLoaded} (${said})` : notLoaded);
      this.worker.onmessageerror = () => this.giveUp('An answer of what computes could not be read.');
    }
    this.worker.postMessage(message);
  }

  private answer(answer: Answer): void {
    this.waiting.get(answer.id)?.(answer);
    this.waiting.delete(answer.id);
  }

  /** Everything that is waited for fails; the next question gets a new worker, which is told anew. */
  private giveUp(error: string): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.told = undefined;
    this.lent = undefined;
    for (const id of [...this.waiting.keys()]) this.answer({ id, error });
  }
}
