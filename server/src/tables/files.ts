import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { ProblemView } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, TryLater } from '../http/problem';
import type { SentFile, SentPart } from './fileThread';
import { doWithFile, type FileAsked, type Parts } from './takeFile';

type FileAnswer = Awaited<ReturnType<typeof doWithFile>>;

/** Reads files of rows, and takes them into tables. */
export interface TableFiles {
  /**
   * Does what is asked of a file, which is read as it comes.
   *
   * @throws HttpProblem with what is wrong in the file, or why it is not taken
   */
  do(asked: FileAsked, parts: Parts): Promise<FileAnswer>;
  stop(): Promise<void>;
}

/** Reads files in the process itself, where there are no built files for threads. */
export const filesHere = (pool: Pool): TableFiles => ({
  do: (asked, parts) => doWithFile(pool, asked, parts),
  stop: () => Promise.resolve(),
});

/** So long the largest file may take, and so many files wait for their turn. */
const longestMs = 10 * 60_000;
const mostWaiting = 20;
const megabytes = 2048;

/** A thread that reads files, one after the other, so that half a million rows hold up nobody else's answers. */
export class FileThread implements TableFiles {
  private readonly threads: Piscina;

  constructor(
    file: URL,
    private readonly databaseUrl: string,
  ) {
    this.threads = new Piscina({
      filename: file.href,
      minThreads: 0,
      maxThreads: 1,
      idleTimeout: 60_000,
      maxQueue: mostWaiting,
      resourceLimits: { maxOldGenerationSizeMb: megabytes },
    });
    // An ended thread is told of by what it was asked for.
    this.threads.on('error', () => undefined);
  }

  async do(asked: FileAsked, parts: Parts): Promise<FileAnswer> {
    const { port1: ours, port2: port } = new MessageChannel();
    const sent: SentFile = { databaseUrl: this.databaseUrl, asked, port };
    serve(ours, parts);
    const done = (await this.threads
      .run(sent, { transferList: [port], signal: AbortSignal.timeout(longestMs) })
      .catch((thrown: unknown): never => {
        throw tooMuch(thrown) ?? thrown;
      })
      .finally(() => ours.close())) as { readonly answer: FileAnswer } | { readonly problem: ProblemView };
    if ('answer' in done) return done.answer;
    throw HttpProblem.from(done.problem);
  }

  async stop(): Promise<void> {
    await this.threads.destroy();
  }
}

/** Gives one part for each that is asked for. */
function serve(port: MessagePort, parts: Parts): void {
  const left = parts[Symbol.asyncIterator]();
  port.on('message', () => {
    left.next().then(
      ({ done, value }) => port.postMessage({ part: done === true ? null : value } satisfies SentPart),
      (thrown: unknown) => {
        const cut = new HttpProblem(400, 'Not whole', 'The file did not come whole.');
        const broken = (thrown instanceof HttpProblem ? thrown : cut).view();
        port.postMessage({ broken } satisfies SentPart);
      },
    );
  });
}

function tooMuch(thrown: unknown): HttpProblem | undefined {
  if (!(thrown instanceof Error)) return undefined;
  if (thrown.message.includes('queue'))
    return new TryLater(60, 503, 'Others first', 'Many files are being read already. Try again in a minute.');
  const isTooLarge = 'code' in thrown && thrown.code === 'ERR_WORKER_OUT_OF_MEMORY';
  return isTooLarge || thrown.name === 'AbortError' || thrown.name === 'TimeoutError'
    ? new HttpProblem(
        413,
        'Too large',
        'The file is more than can be read at once. Divide it, and take its parts.',
      )
    : undefined;
}
