import { bundleProblemText, readBundles, type WholeBundle } from '@vast-knot/core';
import { readJsonFiles, WrongInput } from './files';

/** Returns the bundles of files and folders, put together. */
export function bundlesAt(names: readonly string[], folder: string): WholeBundle {
  if (names.length === 0) throw new WrongInput('Say which bundle: a file, or a folder of files.');
  const read = readBundles(readJsonFiles(names, folder));
  if (read.ok) return read.bundle;
  throw new WrongInput(read.problems.map(bundleProblemText).join('\n'));
}
