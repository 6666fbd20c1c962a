import type { Runner } from '../db/pool';

/** Keeps the address under which systems reach this installation. */
export async function keepUrl(runner: Runner, url: string): Promise<void> {
  await runner.query('UPDATE installation SET url = $1 WHERE url IS DISTINCT FROM $1', [url]);
}

/** Returns the address under which systems reach this installation; undefined until a process answers there. */
export async function readUrl(runner: Runner): Promise<string | undefined> {
  const { rows } = await runner.query<{ url: string | null }>('SELECT url FROM installation');
  return rows[0]?.url ?? undefined;
}
