import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { ReplayInput, ReplayOutput } from './replay';

type Answer = { readonly id: number } & ({ readonly output: ReplayOutput } | { readonly error: string });

let worker: Worker | undefined;
let lastId = 0;
const waiting = new Map<number, (answer: Answer) => void>();

function compute(input: ReplayInput): Promise<ReplayOutput> {
  if (!worker) {
    worker = new Worker(new URL('./replay.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Answer>) => {
      waiting.get(data.id)?.(data);
      waiting.delete(data.id);
    };
  }
  const id = ++lastId;
  worker.postMessage({ id, input });
  return new Promise((done, fail) => {
    waiting.set(id, (answer) => ('output' in answer ? done(answer.output) : fail(new Error(answer.error))));
  });
}

/** The replay of a sample through rules, computed anew whenever one of them changes; the last result stays until then. */
export function useReplay(input: ReplayInput | undefined) {
  return useQuery({
    queryKey: ['replay', input],
    queryFn: () => (input ? compute(input) : Promise.reject(new Error('nothing to replay'))),
    enabled: input !== undefined,
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: keepPreviousData,
  });
}
