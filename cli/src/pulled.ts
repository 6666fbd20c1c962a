import { createHash } from 'node:crypto';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { itemsOf, textOfItem, type WholeBundle } from '@vast-knot/core';

/** Beside the files of a pull: how each thing was then, so that a push can tell who changed it since. A line for each: a hash and what it is of. */
const noteName = '.pulled';

/** Notes how things are in a folder and on the server at this moment. */
export function notePulled(folder: string, bundle: WholeBundle): void {
  const lines = itemsOf(bundle).map((item) => `${hashOf(textOfItem(item))}  ${item.kind} ${item.key}\n`);
  writeFileSync(join(folder, noteName), lines.join(''));
}

/** Returns the hashes that were noted in folders, by `kind key`. */
export function pulledIn(names: readonly string[], from: string): Readonly<Record<string, string>> {
  const noted = names
    .map((name) => resolve(from, name))
    .filter((path) => existsSync(path) && statSync(path).isDirectory() && existsSync(join(path, noteName)))
    .flatMap((path) => readFileSync(join(path, noteName), 'utf8').split('\n'))
    .flatMap((line) => {
      const [, hash = '', key = ''] = /^([0-9a-f]{64}) {2}(.+)$/.exec(line) ?? [];
      return hash === '' ? [] : [[key, hash]];
    });
  return Object.fromEntries(noted) as Readonly<Record<string, string>>;
}

const hashOf = (text: string) => createHash('sha256').update(text).digest('hex');
