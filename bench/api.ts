import type { Stack } from '../scripts/machine/stack.mjs';

/** Asks the API as a person who has signed in. */
export type Api = <T>(method: string, path: string, body?: unknown, revision?: number) => Promise<T>;

/** Signs in, and returns what asks the API from then on. */
export async function signedIn(stack: Stack): Promise<Api> {
  const session = await fetch(`${stack.url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: stack.user, password: stack.password }),
  });
  const cookie = session.headers.get('set-cookie')?.split(';')[0] ?? '';
  await session.arrayBuffer();
  return async <T>(method: string, path: string, body?: unknown, revision?: number) => {
    const answer = await fetch(`${stack.url}/api${path}`, {
      method,
      headers: {
        cookie,
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...(revision !== undefined && { 'if-match': `"${revision}"` }),
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text}`);
    return (text === '' ? undefined : JSON.parse(text)) as T;
  };
}
