import { fork, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { emptyConnection, type ConnectionDraft, type DraftView, type SystemHealth } from '@vast-knot/core';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack, type Stack } from '../scripts/machine/stack.mjs';
import { watchMemory } from './memory';
import { bestTimes, type Figure } from './timing';

const count = 100_000;
const page = 500;
const rounds = 3;
const most = 1.5;

const system = 'piers';

/** All records of a type beside their images, against a script that reads the same pages and hashes each record. */
export async function benchComparing(): Promise<readonly Figure[]> {
  const pages: ChildProcess = fork('bench/pagesServer.mjs');
  const [port] = (await once(pages, 'message')) as [number];
  const host = `127.0.0.1:${port}`;
  removeData('bench');
  const stack = await startStack({ name: 'bench', reach: [host], extra: { LOG_LEVEL: 'fatal' } });
  try {
    const api = await signedIn(stack);
    const caughtUp = async () =>
      (await api<SystemHealth[]>('GET', '/systems/health')).find((each) => each.system === system)
        ?.caughtUpAt ?? null;
    const after = async (before: string | null) => {
      for (;;) {
        const now = await caughtUp();
        if (now !== null && now !== before) return now;
        await new Promise((done) => setTimeout(done, 25));
      }
    };
    await connect(api, host);
    let last: string | null = await after(null);
    const hashes = new Map<string, string>();
    const script = async () => {
      for (let at = 0; at < count; at += page) {
        const answer = await fetch(`http://${host}/piers?limit=${page}&offset=${at}`);
        const { data } = (await answer.json()) as { data: { id: string }[] };
        for (const record of data) {
          const hash = createHash('sha256').update(JSON.stringify(record)).digest('base64');
          if (hashes.get(record.id) !== hash) hashes.set(record.id, hash);
        }
      }
    };
    await script();
    const times = await bestTimes(
      {
        script,
        product: async () => {
          await api('POST', `/systems/${system}/connect`);
          last = await after(last);
        },
      },
      rounds,
    );
    const before = watchMemory(stack).stop();
    const watched = watchMemory(stack);
    await api('POST', `/systems/${system}/connect`);
    last = await after(last);
    const memory = watched.stop() - before;
    const ratio = times.product / times.script;
    return [
      {
        what: `${count.toLocaleString('en')} records: a script that reads and hashes them`,
        value: times.script,
        unit: 'ms',
      },
      { what: 'the same beside their images', value: times.product, unit: 'ms' },
      {
        what: 'compared, against the script',
        value: ratio,
        unit: '×',
        wanted: `at most ${most}`,
        met: ratio <= most,
      },
      { what: 'memory that comparing took, at its peak', value: memory, unit: 'MB' },
    ];
  } finally {
    await stack.stop();
    pages.kill();
  }
}

type Api = <T>(method: string, path: string, body?: unknown, revision?: number) => Promise<T>;

async function signedIn(stack: Stack): Promise<Api> {
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

async function connect(api: Api, host: string): Promise<void> {
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
          paging: { kind: 'offset', parameter: 'offset', limit: { name: 'limit', most: page } },
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
