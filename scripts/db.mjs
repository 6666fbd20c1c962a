import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { postgresPrograms } from './machine/debian.mjs';
import { openPostgres, runningPostgres } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';

/**
 * `npm run db`: a console on the database of `npm start` and `npm run dev`, whether they run or not. `npm run db -- customer_book`
 * opens that of a stand-in; what follows is given to psql: `npm run db -- vast_knot -c 'SELECT count(*) FROM runs'`.
 */
await run(async () => {
  const [database = 'vast_knot', ...args] = process.argv.slice(2);
  const programs = await postgresPrograms();
  const running = runningPostgres('demo');
  const postgres = running ?? (await openPostgres({ name: 'demo', lasting: true }));
  try {
    if (args.length === 0) say(`Console on ${database}; \\q ends it, \\d lists the tables.`);
    const console = spawn(join(programs, 'psql'), [postgres.url(database), ...args], { stdio: 'inherit' });
    process.exitCode = await new Promise((done) => console.once('exit', done));
  } finally {
    await postgres.stop?.();
  }
});
