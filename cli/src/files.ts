import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join, relative, resolve } from 'node:path';
import { parseJson } from '@vast-knot/core';

/** Input that cannot be worked with: said in one sentence, and ends the program with 2. */
export class WrongInput extends Error {}

/** A JSON file, with the name that it was asked for by. */
interface JsonFile {
  readonly file: string;
  readonly json: unknown;
}

/** JSON files by name; of a folder all inside it, in the order of their names. */
export function readJsonFiles(names: readonly string[], folder: string): readonly JsonFile[] {
  const files = names.flatMap((name) => filesAt(resolve(folder, name)));
  if (files.length === 0) throw new WrongInput(`There is no bundle in ${names.join(', ')}.`);
  return files.map((file) => ({ file: relative(folder, file), json: readJson(file) }));
}

function filesAt(path: string): readonly string[] {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat) throw new WrongInput(`There is no file ${path}.`);
  if (!stat.isDirectory()) return [path];
  return readdirSync(path, { withFileTypes: true })
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((entry) =>
      entry.isDirectory() || entry.name.endsWith('.json') ? filesAt(join(path, entry.name)) : [],
    );
}

/** Returns the JSON of one file. */
export function readJson(path: string): unknown {
  const text = textOf(path);
  try {
    return parseJson(text);
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : 'it cannot be read';
    throw new WrongInput(`${path} is not JSON: ${why}`);
  }
}

function textOf(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    throw new WrongInput(`There is no file ${path}.`);
  }
}
