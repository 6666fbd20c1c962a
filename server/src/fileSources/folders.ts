import { createReadStream } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fileNamed } from '@vast-knot/core';

/** A file that lies in a folder. */
export interface LyingFile {
  readonly name: string;
  /** Size and time of its last change: another one for each version of it. */
  readonly mark: string;
  readonly bytes: () => AsyncIterable<Uint8Array>;
}

/** Who writes a file may take this long between two pieces: what was changed a moment ago is not read yet. */
const restMs = 3000;
/** Names under which programs write what is not whole (common practice, no source). */
const unfinished = /^\.|~$|\.(part|partial|tmp|temp|filepart|crdownload|swp|lock)$/i;
/** Files of a folder that are looked through. */
const mostFiles = 10_000;

/**
 * Returns the files of a folder that a pattern means and that have come to rest, the oldest first. They are read and stay where they are.
 * Throws an Error that says why the folder cannot be read.
 */
export async function filesIn(folder: string, pattern: string, now: Date): Promise<readonly LyingFile[]> {
  const fits = fileNamed(pattern);
  const entries = await readdir(folder, { withFileTypes: true });
  if (entries.length > mostFiles)
    throw new Error(
      `The folder holds ${entries.length} files; take some away, ${mostFiles} are looked through at most.`,
    );
  const found = await Promise.all(
    entries
      // Links may lead anywhere, and are not followed.
      .filter((entry) => entry.isFile() && fits(entry.name) && !unfinished.test(entry.name))
      .map(async ({ name }) => {
        const path = join(folder, name);
        const about = await stat(path).catch(() => undefined);
        return about && { name, path, size: about.size, at: about.mtimeMs };
      }),
  );
  return found
    .flatMap((each) => each ?? [])
    .filter(({ size, at }) => size > 0 && now.getTime() - at >= restMs)
    .sort((a, b) => a.at - b.at || (a.name < b.name ? -1 : 1))
    .map(({ name, path, size, at }) => ({
      name,
      mark: `${size} ${at}`,
      bytes: () => createReadStream(path),
    }));
}
