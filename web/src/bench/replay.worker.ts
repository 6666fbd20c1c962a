import { replay, type ReplayInput } from './replay';

/** Computes replays off the page's thread. A message is a number and an input; the answer carries the number back. */
self.onmessage = ({ data }: MessageEvent<{ readonly id: number; readonly input: ReplayInput }>) => {
  replay(data.input).then(
    (output) => self.postMessage({ id: data.id, output }),
    (error: unknown) =>
      self.postMessage({ id: data.id, error: error instanceof Error ? error.message : String(error) }),
  );
};
