import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { command } from './packages.mjs';
import { say, Trouble } from './say.mjs';

const isRoot = () => process.getuid?.() === 0;

/** The folder of PostgreSQL's programs, the newest there is; installed from Debian when missing. */
export async function postgresPrograms() {
  return findPostgres() ?? (await install('postgresql', findPostgres));
}

/** The path of Chromium; installed from Debian when missing. */
export async function chromium() {
  const find = () => (existsSync('/usr/bin/chromium') ? '/usr/bin/chromium' : undefined);
  return find() ?? (await install('chromium', find));
}

function findPostgres() {
  const base = '/usr/lib/postgresql';
  if (!existsSync(base)) return undefined;
  const versions = readdirSync(base).sort((a, b) => Number(b) - Number(a));
  return versions
    .map((version) => join(base, version, 'bin'))
    .find((bin) => existsSync(join(bin, 'initdb')) && existsSync(join(bin, 'postgres')));
}

async function install(name, find) {
  const by = `apt-get update && apt-get install -y --no-install-recommends ${name}`;
  if (!isRoot())
    throw new Trouble(`The Debian package ${name} is missing. Install it with: sudo sh -c '${by}'`);
  say(`Installing the Debian package ${name} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await command('sh', ['-c', by], {
    quiet: true,
    env,
    failure: `The Debian package ${name} could not be installed with: ${by}`,
  });
  const found = find();
  if (!found)
    throw new Trouble(
      `The Debian package ${name} was installed, and its programs are not where they should be.`,
    );
  return found;
}
