/** So long at a time one event is computed while others wait. */
const longestMs = 5;

/** Returns what lets everything else come to its turn whenever a computation has gone on for a while. */
export function breath(): () => Promise<void> | undefined {
  let since = performance.now();
  return () => {
    if (performance.now() - since < longestMs) return undefined;
    return new Promise((done) =>
      setImmediate(() => {
        since = performance.now();
        done();
      }),
    );
  };
}
