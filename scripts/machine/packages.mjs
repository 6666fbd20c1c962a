import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { local, root } from './folders.mjs';
import { say, Trouble } from './say.mjs';

const leastNode = [20, 19];

/** Installs the npm packages of the lock file, unless that was done already for this very lock file. */
export async function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < leastNode[0] || (major === leastNode[0] && minor < leastNode[1])) {
    throw new Trouble(`Node.js ${leastNode.join('.')} or newer is needed; this is ${process.versions.node}.`);
  }
  const lock = createHash('sha256')
    .update(await readFile(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.vast-knot-installed');
  if (existsSync(stamp) && (await readFile(stamp, 'utf8')) === lock) return;
  say('Installing packages from the npm registry …');
  await mkdir(local, { recursive: true });
  // `npm ci` insists on packages for machines other than this one, which a mirror of the registry may not have.
  await command('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'], {
    failure: 'The packages could not be installed: “npm install” failed. Its output stands above.',
  });
  await writeFile(stamp, lock);
}

/** Runs a command to its end, with its output shown; a failure is one line of trouble. */
export function command(name, args, { failure, quiet = false, env = process.env } = {}) {
  return new Promise((done, fail) => {
    const child = spawn(name, args, {
      cwd: root,
      env,
      stdio: quiet ? ['ignore', 'ignore', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    });
    let errors = '';
    child.stderr?.on('data', (chunk) => (errors += chunk));
    child.once('error', (error) => fail(new Trouble(`${failure ?? name}: ${error.message}`)));
    child.once('exit', (code) =>
      code === 0
        ? done()
        : fail(
            new Trouble(`${failure ?? `“${name} ${args.join(' ')}” failed.`}${errors ? `\n${errors}` : ''}`),
          ),
    );
  });
}
