import { resolve } from 'node:path';
import type { Config } from './config/config';
import { verifyChain } from './audit/chain';
import { migrate } from './db/migrate';
import { openPool, type Pool } from './db/pool';
import { resealAll } from './sealed';
import { Seal } from './db/seal';

/** What is done with the database of an installation beside its processes, each by a word or two after the program's name. */
const commands: Readonly<
  Record<string, (pool: Pool, config: Config, rest: readonly string[]) => Promise<Said>>
> = {
  'audit verify': async (pool, _config, [noted]) => {
    const [id, hash] = noted?.split(':') ?? [];
    const state = await verifyChain(pool, id !== undefined && hash !== undefined ? { id, hash } : undefined);
    return state.ok
      ? {
          code: 0,
          lines: [
            `${state.entries} entries, each as it was written.`,
            `Keep this elsewhere; with it, it is seen when the last ones are taken off: ${state.entries}:${state.hash}`,
          ],
        }
      : { code: 1, lines: [`The audit was changed at entry ${state.id}. ${state.because}`] };
  },
  'rotate-key': async (pool, config) => {
    if (config.formerSealKeys.length === 0)
      return { code: 2, lines: ['Set SEAL_KEY to the new key, and SEAL_KEYS_FORMER to the one before it.'] };
    const count = await resealAll(pool, new Seal(config.sealKey, ...config.formerSealKeys));
    return {
      code: 0,
      lines: [
        `${count} secrets are sealed with the new key now. SEAL_KEYS_FORMER is wanted no more once every process has the new one.`,
      ],
    };
  },
};

interface Said {
  readonly code: number;
  readonly lines: readonly string[];
}

/** Does what the words after the program's name say. Returns what to print and the exit code; undefined where there are none. */
export async function doCommand(words: readonly string[], config: Config): Promise<Said | undefined> {
  if (words.length === 0) return undefined;
  const name = Object.keys(commands).find(
    (each) => words.slice(0, each.split(' ').length).join(' ') === each,
  );
  const command = name === undefined ? undefined : commands[name];
  if (name === undefined || !command)
    return {
      code: 2,
      lines: [`There is no “${words.join(' ')}”. There is: ${Object.keys(commands).join(', ')}.`],
    };
  const pool = openPool(config.databaseUrl, () => undefined);
  try {
    await migrate(pool, resolve(config.migrations));
    return await command(pool, config, words.slice(name.split(' ').length));
  } finally {
    await pool.end();
  }
}
