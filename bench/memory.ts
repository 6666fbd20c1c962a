import { readFileSync } from 'node:fs';
import type { Stack } from '../scripts/machine/stack.mjs';

/** The resident memory of the server at most, in MB. */
export function watchMemory(stack: Stack): { stop: () => number } {
  const now = () => {
    const status = readFileSync(`/proc/${stack.server.pid}/status`, 'utf8');
    return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
  };
  let most = now();
  const timer = setInterval(() => (most = Math.max(most, now())), 50);
  return {
    stop: () => {
      clearInterval(timer);
      return most;
    },
  };
}
