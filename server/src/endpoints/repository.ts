import type { Runner } from '../db/pool';
import type { Seal } from '../db/seal';

/** An outside address that messages are sent to. */
export interface Endpoint {
  readonly key: string;
  readonly name: string;
  readonly url: string;
  /** What the messages are signed with. */
  readonly secret: string;
}

/** Returns the endpoints in the order of their names, with their secrets opened. */
export async function readEndpoints(runner: Runner, seal: Seal): Promise<readonly Endpoint[]> {
  const { rows } = await runner.query<Omit<Endpoint, 'secret'> & { sealed: Buffer }>(
    'SELECT key, name, url, sealed FROM endpoints ORDER BY name',
  );
  return rows.map(({ sealed, ...endpoint }) => ({ ...endpoint, secret: seal.open(sealed) }));
}

/** Makes an endpoint, or changes one; without a secret it keeps its own. */
export async function keepEndpoint(
  runner: Runner,
  seal: Seal,
  { key, name, url, secret }: Omit<Endpoint, 'secret'> & { readonly secret?: string | undefined },
): Promise<void> {
  if (secret === undefined) {
    await runner.query('UPDATE endpoints SET name = $2, url = $3 WHERE key = $1', [key, name, url]);
    return;
  }
  await runner.query(
    `INSERT INTO endpoints (key, name, url, sealed) VALUES ($1, $2, $3, $4)
     ON CONFLICT (key) DO UPDATE SET name = EXCLUDED.name, url = EXCLUDED.url, sealed = EXCLUDED.sealed`,
    [key, name, url, seal.seal(secret)],
  );
}
