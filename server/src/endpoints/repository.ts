import { inTransaction, type Pool, type Runner } from '../db/pool';
import type { Seal } from '../db/seal';

/** An outside address that messages are sent to. */
export interface Endpoint {
  readonly key: string;
  readonly name: string;
  readonly url: string;
  /** What the messages are signed with. */
  readonly secret: string;
  /** The secret before it, with which they are signed too until the receiver knows the new one. */
  readonly former: { readonly secret: string; readonly until: Date } | undefined;
}

interface EndpointRow {
  readonly key: string;
  readonly name: string;
  readonly url: string;
  readonly sealed: Buffer;
  readonly former: Buffer | null;
  readonly former_until: Date | null;
}

/** For so long the secret before signs as well. */
const formerHours = 24;

/** Returns the endpoints in the order of their names, with their secrets opened. */
export async function readEndpoints(runner: Runner, seal: Seal): Promise<readonly Endpoint[]> {
  const { rows } = await runner.query<EndpointRow>(
    'SELECT key, name, url, sealed, former, former_until FROM endpoints ORDER BY name',
  );
  return rows.map(({ key, name, url, sealed, former, former_until: until }) => ({
    key,
    name,
    url,
    secret: seal.open(sealed),
    former: former && until ? { secret: seal.open(former), until } : undefined,
  }));
}

/** Makes an endpoint, or changes one; without a secret it keeps its own. The secret before another one signs for a day as well. */
export async function keepEndpoint(
  pool: Pool,
  seal: Seal,
  {
    key,
    name,
    url,
    secret,
  }: Pick<Endpoint, 'key' | 'name' | 'url'> & { readonly secret?: string | undefined },
): Promise<void> {
  await inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      'INSERT INTO endpoints (key, name, url, sealed) VALUES ($1, $2, $3, $4) ON CONFLICT (key) DO NOTHING',
      [key, name, url, seal.seal(secret ?? '')],
    );
    if (rowCount === 1) return;
    const { rows } = await client.query<{ sealed: Buffer }>(
      'SELECT sealed FROM endpoints WHERE key = $1 FOR UPDATE',
      [key],
    );
    const before = rows[0] && opened(seal, rows[0].sealed);
    if (secret === undefined || before === secret)
      await client.query('UPDATE endpoints SET name = $2, url = $3 WHERE key = $1', [key, name, url]);
    else
      await client.query(
        `UPDATE endpoints SET name = $2, url = $3, sealed = $4, former = CASE WHEN $5 THEN sealed END,
           former_until = CASE WHEN $5 THEN now() + interval '${formerHours} hours' END WHERE key = $1`,
        [key, name, url, seal.seal(secret), before !== undefined],
      );
  });
}

/** Returns a secret; undefined for one that was sealed with another key, which signs nothing any more. */
function opened(seal: Seal, sealed: Buffer): string | undefined {
  try {
    return seal.open(sealed);
  } catch {
    // The key of the installation was replaced; its secrets are given anew.
    return undefined;
  }
}
