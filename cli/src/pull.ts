import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import {
  bundleFiles,
  bundleFolders,
  bundleProblemText,
  isJsonObject,
  parseJson,
  readBundles,
} from '@vast-knot/core';
import { WrongInput } from './files';
import { notePulled } from './pulled';
import type { Say } from './say';
import type { Server } from './server';

interface PullOptions {
  readonly folder?: string | undefined;
  readonly 'no-samples'?: boolean | undefined;
}

/**
 * Writes what a server has into a folder, a file for each thing, the same bytes for the same content. Files of an earlier pull that are there no
 * more are removed; whatever is no bundle stays.
 */
export async function pull(
  server: Server,
  into: string,
  { folder, 'no-samples': withoutSamples = false }: PullOptions,
  say: Say,
): Promise<number> {
  const json = await server.ask<unknown>('POST', '/bundles', {
    body: { ...(folder !== undefined && { folder }), form: 'file', samples: !withoutSamples },
  });
  const read = readBundles([{ file: 'The answer of the server', json }]);
  if (!read.ok) throw new WrongInput(read.problems.map(bundleProblemText).join('\n'));
  const files = bundleFiles(read.bundle);
  const known = new Set(files.map(({ path }) => path));
  mkdirSync(into, { recursive: true });
  let [written, same, removed] = [0, 0, 0];
  for (const { path, text } of files) {
    const file = resolve(into, path);
    if (existsSync(file) && readFileSync(file, 'utf8') === text) {
      same++;
      continue;
    }
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, text);
    say(`wrote    ${path}`);
    written++;
  }
  for (const path of bundlesIn(into)) {
    if (known.has(path)) continue;
    rmSync(join(into, path));
    say(`removed  ${path}`);
    removed++;
  }
  notePulled(into, read.bundle);
  say(`${written} written, ${removed} removed, ${same} as they were`);
  return 0;
}

/** Returns the bundles in the folders that a pull writes to. */
function bundlesIn(into: string): readonly string[] {
  return bundleFolders.flatMap((part) => {
    const folder = join(into, part);
    if (!existsSync(folder)) return [];
    return readdirSync(folder)
      .filter((name) => name.endsWith('.json') && isBundle(join(folder, name)))
      .map((name) => `${part}/${name}`);
  });
}

function isBundle(file: string): boolean {
  try {
    const json = parseJson(readFileSync(file, 'utf8'));
    return isJsonObject(json) && 'vastKnot' in json;
  } catch {
    // Somebody is editing it, or it is something else.
    return false;
  }
}
