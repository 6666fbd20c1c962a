import { fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import type { Client } from 'pg';
import { emptyConnection, type ConnectionDraft, type DraftView } from '@vast-knot/core';
import type { Api } from './api';

/** An application that gives pages of its records and nothing else. */
export const piers = { page: 500, system: 'piers' } as const;

/** Starts it, with so many records, in a process of its own. Returns that, and where it answers. */
export async function servePiers(
  count: number,
): Promise<{ readonly server: ChildProcess; readonly host: string }> {
  const server = fork('bench/pagesServer.mjs', [String(count)]);
  const [port] = (await once(server, 'message')) as [number];
  return { server, host: `127.0.0.1:${port}` };
}

/**
 * Waits until its records were compared again after the moment that is given, or for the first time. Returns when that was. It is asked of
 * the database itself: the page that shows it looks at much more, which is no part of the work.
 */
export async function comparedAfter(database: Client, before: string | null): Promise<string> {
  for (;;) {
    const { rows } = await database.query<{ at: string | null }>(
      'SELECT caught_up_at::text AS at FROM system_states WHERE system = $1',
      [piers.system],
    );
    const now = rows[0]?.at ?? null;
    if (now !== null && now !== before) return now;
    await new Promise((done) => setTimeout(done, 10));
  }
}

/** Connects it. */
export async function connectPiers(api: Api, host: string): Promise<void> {
  const view = await api<DraftView>('POST', '/connections/drafts', { from: 'hand', name: 'Piers' });
  const text = (name: string) => ({ name, label: name, type: 'text' as const });
  const draft: ConnectionDraft = {
    ...view.draft,
    recordTypes: [
      {
        name: 'pier',
        label: 'Pier',
        plural: 'Piers',
        idField: 'id',
        nameField: 'name',
        fields: [
          ...['id', 'name', 'town', 'phone', 'remark'].map(text),
          { name: 'depth', label: 'depth', type: 'decimal' },
          { name: 'open', label: 'open', type: 'boolean' },
          {
            name: 'place',
            label: 'place',
            type: 'object',
            fields: [{ name: 'quay', label: 'quay', type: 'integer' }, text('side')],
          },
        ],
      },
    ],
    connection: {
      ...emptyConnection,
      baseUrl: `http://${host}`,
      signIn: { kind: 'none' },
      usual: {
        list: {
          path: '{path}',
          items: '/data',
          total: '/total',
          paging: { kind: 'offset', parameter: 'offset', limit: { name: 'limit', most: piers.page } },
          filter: { kind: 'none' },
        },
        one: { kind: 'address', path: '{path}/{id}' },
        version: { kind: 'none' },
      },
      recordTypes: { pier: { path: '/piers' } },
    },
  };
  const saved = await api<DraftView>('PUT', `/connections/drafts/${view.id}`, { draft }, view.revision);
  await api('POST', `/connections/drafts/${view.id}/start`, undefined, saved.revision);
}
