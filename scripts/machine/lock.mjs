import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { local } from './folders.mjs';
import { Trouble } from './say.mjs';

const file = join(local, 'running.pid');

/** One start at a time for a checkout: a second one says so instead of taking the first one's database. */
export function takeLock() {
  const pid = existsSync(file) ? Number(readFileSync(file, 'utf8')) : undefined;
  if (pid && isAlive(pid))
    throw new Trouble(`Vast Knot runs already here, as process ${pid}. Stop it with Ctrl+C first.`);
  mkdirSync(local, { recursive: true });
  writeFileSync(file, String(process.pid));
  process.once('exit', () => rmSync(file, { force: true }));
}

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    // There is no such process.
    return false;
  }
}
