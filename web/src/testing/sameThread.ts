import type { StoredRecord, Surroundings } from '@vast-knot/core';
import { WorkerClient, type WorkerPort } from '../work/askWorker';
import { surroundingsOf } from '../work/known';
import type { Message } from '../work/work.worker';
import { works } from '../work/works';

/** What the worker does, on the thread of the test: test environments have no workers. */
class SameThread implements WorkerPort {
  onmessage: WorkerPort['onmessage'] = null;
  onerror: WorkerPort['onerror'] = null;
  onmessageerror: WorkerPort['onmessageerror'] = null;
  private surroundings: Surroundings | undefined;
  private records: readonly StoredRecord[] = [];

  postMessage(message: Message): void {
    if ('known' in message) this.surroundings = surroundingsOf(message.known);
    else if ('records' in message) this.records = message.records;
    else void this.compute(message);
  }

  terminate(): void {
    this.onmessage = null;
  }

  private async compute({ id, work, input, lent }: Extract<Message, { id: number }>): Promise<void> {
    const compute = works[work] as (input: unknown, surroundings: Surroundings | undefined) => unknown;
    const output = await compute(lent ? { ...input, records: this.records } : input, this.surroundings);
    this.onmessage?.(new MessageEvent('message', { data: { id, output } }));
  }
}

export const worker = new WorkerClient(() => new SameThread());
