import { inTransaction, type Client, type Pool, type Runner } from '../db/pool';
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

/** Where the secret of an outside address is sealed for. */
export const ofEndpoint = (key: string) => `endpoint ${key}`;

/** Returns the endpoints in the order of their names, with their secrets opened. */
export async function readEndpoints(runner: Runner, seal: Seal): Promise<readonly Endpoint[]> {
  const { rows } = await runner.query<EndpointRow>(
    'SELECT key, name, url, sealed, former, former_until FROM endpoints ORDER BY name',
  );
  return rows.map(({ key, name, url, sealed, former, former_until: until }) => ({
    key,
    name,
    url,
    secret: seal.open(sealed, ofEndpoint(key)),
    former: former && until ? { secret: seal.open(former, ofEndpoint(key)), until } : undefined,
  }));
}

/** Makes an endpoint, or changes one; without a secret it keeps its own. The secret before another one signs for a day as well. */
export async function keepEndpoint(pool: Pool, seal: Seal, given: GivenEndpoint): Promise<void> {
  await inTransaction(pool, async (client) => {
    const { key, name, url, secret, by = null, was } = given;
    if (await insertEndpoint(client, seal, { key, name, url, secret: secret ?? '', by })) return;
    const { rows } = await client.query<{ sealed: Buffer; name: string; url: string; by: string | null }>(
      'SELECT sealed, name, url, changed_by AS by FROM endpoints WHERE key = $1 FOR UPDATE',
      [key],
    );
    const [row] = rows;
    if (was && row && (row.name !== was.name || row.url !== was.url)) throw new EndpointChanged(row.by);
    const before = row && opened(seal, row.sealed, ofEndpoint(key));
    if (secret === undefined || before === secret)
      await client.query('UPDATE endpoints SET name = $2, url = $3, changed_by = $4 WHERE key = $1', [
        key,
        name,
        url,
        by,
      ]);
    else
      await client.query(
        `UPDATE endpoints SET name = $2, url = $3, changed_by = $6, sealed = $4, former = CASE WHEN $5 THEN sealed END,
           former_until = CASE WHEN $5 THEN now() + interval '${formerHours} hours' END WHERE key = $1`,
        [key, name, url, seal.seal(secret, ofEndpoint(key)), before !== undefined, by],
      );
  });
}

/** An endpoint as somebody gives it: without a secret it keeps its own, and with `was` only one that is still so is changed. */
interface GivenEndpoint extends Pick<Endpoint, 'key' | 'name' | 'url'> {
  readonly secret?: string | undefined;
  readonly by?: string;
  readonly was?: Pick<Endpoint, 'name' | 'url'> | undefined;
}

/** Somebody changed an endpoint since it was seen. */
export class EndpointChanged extends Error {
  constructor(readonly by: string | null) {
    super('The endpoint was changed meanwhile.');
  }
}

/** Makes an endpoint where there is none of its key. Returns whether there was none. */
export async function insertEndpoint(
  client: Client,
  seal: Seal,
  {
    key,
    name,
    url,
    secret,
    by,
  }: Pick<Endpoint, 'key' | 'name' | 'url' | 'secret'> & { readonly by: string | null },
): Promise<boolean> {
  const { rowCount } = await client.query(
    `INSERT INTO endpoints (key, name, url, sealed, changed_by) VALUES ($1, $2, $3, $4, $5)
     ON CONFLICT (key) DO NOTHING`,
    [key, name, url, seal.seal(secret, ofEndpoint(key)), by],
  );
  return rowCount === 1;
}

/** Removes an endpoint. What still waits for it is given up in its turn. */
export async function removeEndpoint(client: Client, key: string): Promise<void> {
  await client.query('DELETE FROM endpoints WHERE key = $1', [key]);
}

/** Returns a secret; undefined for one that was sealed with another key, which signs nothing any more. */
function opened(seal: Seal, sealed: Buffer, about: string): string | undefined {
  try {
    return seal.open(sealed, about);
  } catch {
    // The key of the installation was replaced; its secrets are given anew.
    return undefined;
  }
}
