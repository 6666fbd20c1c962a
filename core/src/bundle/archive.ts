import { unzipSync, zipSync } from 'fflate';
import type { BundleFile } from './files';

/** A day that every file in an archive has, so that the same content is the same bytes: the first that the format knows. */
const firstDay = new Date(1980, 0, 1);

/** Whoever packs a little into very much means to fill a memory. */
const mostBytes = 200_000_000;
const mostFiles = 50_000;

/** Returns files as one archive (ZIP, as APPNOTE 6.3 describes it). */
export function archiveOf(files: readonly BundleFile[]): Uint8Array {
  const named = files.map(({ path, text }) => [path, new TextEncoder().encode(text)] as const);
  return zipSync(Object.fromEntries(named), { mtime: firstDay, level: 6 });
}

/** Returns the JSON files of an archive. Throws an error that says why it cannot be read. */
export function filesInArchive(bytes: Uint8Array): readonly BundleFile[] {
  let [left, count] = [mostBytes, 0];
  const found = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      if (!name.endsWith('.json')) return false;
      left -= originalSize;
      if (left < 0 || ++count > mostFiles) throw new Error('The archive holds more than is read here.');
      return true;
    },
  });
  const reader = new TextDecoder('utf-8', { fatal: true });
  return Object.entries(found).map(([path, content]) => ({ path, text: reader.decode(content) }));
}
