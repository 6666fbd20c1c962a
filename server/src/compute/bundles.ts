import {
  bundleProblemText,
  parseJson,
  readBundles,
  type ImportAsked,
  type Upgraded,
  type WholeBundle,
} from '@vast-knot/core';

/** Files put together as one bundle, or what is wrong in them, each with its place. */
export type BundlesRead =
  | { readonly ok: true; readonly bundle: WholeBundle; readonly upgraded: readonly Upgraded[] }
  | { readonly ok: false; readonly problems: readonly { readonly at: string; readonly message: string }[] };

/** So many problems are named. */
const mostProblems = 100;

/** Reads the files of an import. */
export function readFiles({ files }: Pick<ImportAsked, 'files'>): BundlesRead {
  const given: { file: string; json: unknown }[] = [];
  for (const { name, text } of files) {
    try {
      given.push({ file: name, json: parseJson(text) });
    } catch (thrown) {
      const why = thrown instanceof Error ? thrown.message : 'it cannot be read';
      return { ok: false, problems: [{ at: name, message: `${name} is not JSON: ${why}` }] };
    }
  }
  const read = readBundles(given);
  if (read.ok) return read;
  const problems = read.problems.slice(0, mostProblems).map((problem) => ({
    at: `${problem.file}/${problem.at}`,
    message: bundleProblemText(problem),
  }));
  return { ok: false, problems };
}
