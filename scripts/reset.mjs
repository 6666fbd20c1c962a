import { takeLock } from './machine/lock.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { openPostgres, removeData } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';
import { applications, register } from './machine/stack.mjs';

/** `npm run reset`: throws the demo's data away; the next start loads it anew. */
await run(async () => {
  takeLock();
  await ensurePackages();
  if (process.env.DATABASE_URL) await dropDatabases();
  else removeData('demo');
  say('The demo is restored with the next npm start.');
});

async function dropDatabases() {
  const { default: pg } = await import('pg');
  const { url } = await openPostgres({ name: 'demo', lasting: true });
  const admin = new URL(process.env.DATABASE_URL);
  admin.pathname = '/postgres';
  const client = new pg.Client({ connectionString: admin.href });
  await client.connect();
  for (const key of ['vast_knot', ...[...applications, register].map((name) => name.replaceAll('-', '_'))]) {
    const name = new URL(url(key)).pathname.slice(1);
    await client.query(`DROP DATABASE IF EXISTS ${client.escapeIdentifier(name)} WITH (FORCE)`);
  }
  await client.end();
}
