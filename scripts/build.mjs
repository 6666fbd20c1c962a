import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './machine/folders.mjs';
import { run, say } from './machine/say.mjs';

const sources = ['core/src', 'server/src', 'standins/src', 'web', 'package-lock.json', 'scripts/build.mjs'];

/** Bundles server, stand-ins and web into their dist folders, unless their sources are as they were at the last build. */
export async function build() {
  const stamp = join(root, 'web/dist/.built-from');
  const state = await fingerprint(sources);
  if (existsSync(stamp) && (await readFile(stamp, 'utf8')) === state) return;
  say('Building …');
  const { build: buildWeb } = await import('vite');
  await bundleServer();
  await bundle('standins/src/main.ts', 'standins/dist/main.mjs');
  await buildWeb({ root: join(root, 'web'), configFile: join(root, 'web/vite.config.ts'), logLevel: 'warn' });
  await bundlePage('web/src/formPage/showing.ts', 'web/dist/form.js');
  await writeFile(stamp, state);
}

/** Bundles the small script of a page that the server makes. */
async function bundlePage(from, to) {
  const { build: esbuild } = await import('esbuild');
  await esbuild({
    absWorkingDir: root,
    entryPoints: [from],
    outfile: to,
    bundle: true,
    minify: true,
    target: 'es2022',
    format: 'iife',
    logLevel: 'warning',
  });
}

/**
 * Returns the file of the command line, made of its sources as they are: what is replayed in a pipeline is what was checked out.
 * Everything that it needs is in it, so that it starts at once.
 */
export async function builtCommandLine() {
  const file = join(root, 'cli/dist/main.mjs');
  const stamp = join(root, 'cli/dist/.built-from');
  const state = await fingerprint(['core/src', 'cli/src', 'package-lock.json', 'scripts/build.mjs']);
  if (existsSync(stamp) && (await readFile(stamp, 'utf8')) === state) return file;
  // Another process may be starting: what it reads is whole, before and after.
  const next = `${file}.${process.pid}`;
  await bundle('cli/src/main.ts', next, { whole: true });
  await rename(next, file);
  await writeFile(stamp, state);
  return file;
}

/** Bundles the server and the threads that it runs. */
export async function bundleServer() {
  await bundle('server/src/main.ts', 'server/dist/main.mjs');
  await bundle('server/src/worker/thread.ts', 'server/dist/worker.mjs');
  await bundle('server/src/compute/thread.ts', 'server/dist/compute.mjs');
  await bundle('server/src/tables/fileThread.ts', 'server/dist/files.mjs');
}

/** Bundles one entry with the workspace's own packages for Node.js; `whole`, with those of the registry too. */
export async function bundle(from, to, { whole = false } = {}) {
  const { build: esbuild } = await import('esbuild');
  await esbuild({
    absWorkingDir: root,
    entryPoints: [from],
    outfile: to,
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: !whole,
    logLevel: 'warning',
    // Packages in the older form of modules ask for others by require.
    ...(whole && {
      banner: {
        js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);",
      },
    }),
    plugins: whole ? [] : [externalPackages],
  });
}

/**
 * Packages of the registry stay outside the bundles. The workspace's own are part of them, and so is what npm put into
 * the folder of one of these alone: from the bundle it would not be found.
 */
const externalPackages = {
  name: 'external-packages',
  setup(api) {
    api.onResolve({ filter: /^[^./]/ }, ({ path, kind, importer }) => {
      if (kind === 'entry-point' || path.startsWith('@vast-knot/')) return undefined;
      // Node.js imports data only with a mark that its versions write differently.
      if (path.endsWith('.json')) return undefined;
      const workspace = relative(root, importer).split(sep)[0];
      const name = path.split('/', path.startsWith('@') ? 2 : 1).join('/');
      return existsSync(join(root, workspace, 'node_modules', name)) ? undefined : { path, external: true };
    });
  },
};

async function fingerprint(of) {
  const hash = createHash('sha256');
  const visit = async (path) => {
    const about = await stat(path);
    if (!about.isDirectory()) return void hash.update(`${path} ${about.size} ${about.mtimeMs}\n`);
    for (const name of (await readdir(path)).sort())
      if (name !== 'dist' && name !== 'node_modules') await visit(join(path, name));
  };
  for (const source of of) await visit(join(root, source));
  return hash.digest('hex');
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) await run(build);
