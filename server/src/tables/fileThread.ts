import { once } from 'node:events';
import type { MessagePort } from 'node:worker_threads';
import type { ProblemView } from '@vast-knot/core';
import { openPool, type Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import { doWithFile, type FileAsked, type Parts } from './takeFile';

/** A file on its way to a thread: the database that it is for, and a port through which its parts come, one for each that is asked for. */
export interface SentFile {
  readonly databaseUrl: string;
  readonly asked: FileAsked;
  readonly port: MessagePort;
}

/** What comes for each part that is asked for; `null` after the last. */
export type SentPart = { readonly part: Uint8Array | null } | { readonly broken: ProblemView };

let pool: Pool | undefined;

/** Does what is asked of a file in this thread. A problem is answered as data, since errors lose their kind on the way. */
export default async function doInThread({ databaseUrl, asked, port }: SentFile) {
  pool ??= openPool(databaseUrl, () => undefined);
  try {
    return { answer: await doWithFile(pool, asked, partsFrom(port)) };
  } catch (thrown) {
    if (thrown instanceof HttpProblem) return { problem: thrown.view() };
    throw thrown;
  } finally {
    port.close();
  }
}

/** Asks for one part after the other, so that no more of a file waits than is read. */
async function* partsFrom(port: MessagePort): Parts {
  for (;;) {
    const came = once(port, 'message') as Promise<[SentPart]>;
    port.postMessage('next');
    const [sent] = await came;
    if ('broken' in sent) throw HttpProblem.from(sent.broken);
    if (sent.part === null) return;
    yield sent.part;
  }
}
