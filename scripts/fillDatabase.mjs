import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { postgresPrograms } from './machine/debian.mjs';
import { root } from './machine/folders.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { removeData } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';
import { startStack } from './machine/stack.mjs';

/**
 * `node scripts/fillDatabase.mjs 001`: fills a database of the demo with what an installation has after some use (runs that wrote,
 * failed and still wait, a sample, an edited draft, a changed table, a wait), ends its server without warning, and keeps it as
 * `server/migrations/filled/001.sql.gz`. The test of migrations takes it through all that came later. Made once for a version,
 * before the next migration is written.
 */
await run(async () => {
  const version = process.argv[2];
  if (!/^\d{3}$/.test(version ?? '')) throw new Error('Say which version it is: 001.');
  await ensurePackages();
  removeData('filled');
  const stack = await startStack({ name: 'filled' });
  try {
    const api = await signedIn(stack);
    const desk = stack.connections['freight-desk'];
    const dial = (dials) =>
      fetch(`${desk.baseUrl}/dials`, {
        method: 'PUT',
        headers: { 'x-desk-key': desk.token, 'content-type': 'application/json' },
        body: JSON.stringify(dials),
      });
    const change = (id, set) => api('PATCH', `/records/customer-book/company/${id}`, { set });
    const runOf = async (id, fits) => {
      for (let tries = 0; tries < 200; tries++) {
        const { runs } = await api('GET', `/runs?search=${id}`);
        const found = runs.find((each) => each.ref?.id === id && fits(each));
        if (found) return found;
        await new Promise((done) => setTimeout(done, 100));
      }
      throw new Error(`no such run of ${id}`);
    };

    await change('C-1001', { phone: '01632 960 301' });
    const wrote = await runOf('C-1001', ({ result }) => result === 'wrote');
    await api('POST', '/samples', { run: wrote.id, name: 'Taken before the update' });
    await change('C-1002', { status: 'active', phone: '01632 960 302' });
    await runOf('C-1002', ({ result }) => result !== null);

    const rules = await api('GET', '/rules');
    const [first] = rules;
    await api(
      'PUT',
      `/rules/${first.id}/draft`,
      { ...first.draft, note: 'Edited and not published.' },
      { 'if-match': `"${first.revision}"` },
    );
    const [table] = await api('GET', '/tables');
    const { rows, rowIds } = await api('GET', `/tables/${encodeURIComponent(table.name)}`);
    await api('POST', `/tables/${encodeURIComponent(table.name)}/rows`, {
      what: 'Removed a row',
      changes: [{ id: rowIds.at(-1), before: rows.at(-1), after: null }],
    });

    // From here on one system is away: what was asked of it waits.
    await dial({ outage: true });
    await change('C-1010', { phone: '01632 960 310' });
    await runOf('C-1010', ({ waitsFor }) => waitsFor === 'freight-desk');
    await stack.abandon();
    await keep(stack, version);
  } finally {
    await stack.stop();
    removeData('filled');
  }
});

async function signedIn(stack) {
  const response = await fetch(`${stack.url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: stack.user, password: stack.password }),
  });
  if (!response.ok) throw new Error(`signing in answered ${response.status}: ${await response.text()}`);
  const cookie = response.headers.get('set-cookie').split(';')[0];
  return async (method, path, body, headers = {}) => {
    const answer = await fetch(`${stack.url}/api${path}`, {
      method,
      headers: { cookie, 'content-type': 'application/json', ...headers },
      ...(body && { body: JSON.stringify(body) }),
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${method} ${path} answered ${answer.status}: ${text}`);
    return text === '' ? undefined : JSON.parse(text);
  };
}

/** Keeps the database as statements; lines for psql alone are left out, so that any client can run them. */
async function keep(stack, version) {
  const programs = await postgresPrograms();
  const dump = execFileSync(
    join(programs, 'pg_dump'),
    ['--no-owner', '--no-privileges', '--inserts', '--rows-per-insert=100', stack.database('vast_knot')],
    { encoding: 'utf8', maxBuffer: 256 * 1024 * 1024 },
  );
  const statements = dump
    .split('\n')
    .filter((line) => !line.startsWith('\\'))
    .join('\n');
  const folder = join(root, 'server/migrations/filled');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, `${version}.sql.gz`), gzipSync(statements, { level: 9 }));
  say(`server/migrations/filled/${version}.sql.gz: ${statements.length} characters`);
}
