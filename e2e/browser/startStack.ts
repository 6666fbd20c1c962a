import { removeData } from '../../scripts/machine/postgres.mjs';
import { startStack } from '../../scripts/machine/stack.mjs';

/** Starts everything anew before the stories, and tells them where; stops it after the last one. */
export default async function start(): Promise<() => Promise<void>> {
  removeData('browser');
  const stack = await startStack({ name: 'browser' });
  process.env['STACK'] = JSON.stringify({
    url: stack.url,
    user: stack.user,
    password: stack.password,
    connections: stack.connections,
  });
  return () => stack.stop();
}
