import type { FullConfig } from '@playwright/test';
import { removeData } from '../../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../../scripts/machine/stack.mjs';

/** Starts everything anew before the stories, once for each worker, and tells them where; stops it after the last one. */
export default async function start({ workers }: FullConfig): Promise<() => Promise<void>> {
  const stacks: Stack[] = [];
  for (let at = 0; at < workers; at++) {
    const name = `browser-${at}`;
    removeData(name);
    stacks.push(await startStack({ name }));
  }
  process.env['STACKS'] = JSON.stringify(
    stacks.map(({ url, user, password, connections }) => ({ url, user, password, connections })),
  );
  return async () => {
    for (const stack of stacks) await stack.stop();
  };
}
