import { fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { emptyConnection, type ConnectionDraft, type DraftView } from '@vast-knot/core';
import type { Api } from './api';

/** An application with a hundred thousand records, which gives pages of them and nothing else. */
export const piers = { count: 100_000, page: 500, system: 'piers' } as const;

/** Starts it in a process of its own. Returns that, and where it answers. */
export async function servePiers(): Promise<{ readonly server: ChildProcess; readonly host: string }> {
  const server = fork('bench/pagesServer.mjs');
  const [port] = (await once(server, 'message')) as [number];
  return { server, host: `127.0.0.1:${port}` };
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
