import type { Rule } from '@vast-knot/core';
import { WorkerClient, type WorkerPort } from './askWorker';
import { known, line, ruleWith } from './testWorld';
import type { Message } from './work.worker';

class FakePort implements WorkerPort {
  onmessage: WorkerPort['onmessage'] = null;
  onerror: WorkerPort['onerror'] = null;
  onmessageerror: WorkerPort['onmessageerror'] = null;
  readonly posted: Message[] = [];
  ended = false;
  postMessage(message: Message): void {
    this.posted.push(message);
  }
  terminate(): void {
    this.ended = true;
  }
  answer(answer: object): void {
    this.onmessage?.(new MessageEvent('message', { data: answer }) as never);
  }
}

function client() {
  const ports: FakePort[] = [];
  const opened = new WorkerClient(() => {
    const port = new FakePort();
    ports.push(port);
    return port;
  });
  const rule: Rule = ruleWith([line('name', 'name')]);
  return { ports, ask: () => opened.ask('findings', { rule, others: [], running: [] }, known) };
}

const kinds = (port: FakePort | undefined) => port?.posted.map((message) => Object.keys(message)[0]);

test('the worker is told of schemas once, and each question gets its own answer', async () => {
  const { ports, ask } = client();
  const [first, second] = [ask(), ask()];
  expect(kinds(ports[0])).toEqual(['known', 'id', 'id']);
  ports[0]?.answer({ id: 2, output: ['two'] });
  ports[0]?.answer({ id: 1, output: ['one'] });
  expect([await first, await second]).toEqual([['one'], ['two']]);
});

test('work that fails fails for who asked, with its sentence', async () => {
  const { ports, ask } = client();
  const asked = ask();
  ports[0]?.answer({ id: 1, error: 'It cannot be computed.' });
  await expect(asked).rejects.toThrow('It cannot be computed.');
});

test('a worker that cannot be loaded says so to all who wait, and the next question gets a new one', async () => {
  const { ports, ask } = client();
  const waiting = [ask(), ask()];
  ports[0]?.onerror?.({ message: '' } as ErrorEvent);
  for (const each of waiting) await expect(each).rejects.toThrow('could not be loaded. Load the page again');
  expect(ports[0]?.ended).toBe(true);
  const again = ask();
  // The new one knows nothing yet.
  expect(kinds(ports[1])).toEqual(['known', 'id']);
  ports[1]?.answer({ id: 3, output: [] });
  expect(await again).toEqual([]);
});
