import { filesInArchive, type ImportAsked } from '@vast-knot/core';

/** Returns what chosen files hold: JSON as it is, of an archive each file in it. Throws an error that names the file and says why. */
export async function readFiles(files: readonly File[]): Promise<ImportAsked['files']> {
  const read: { name: string; text: string }[] = [];
  for (const file of files) {
    if (!file.name.endsWith('.zip')) {
      read.push({ name: file.name, text: await file.text() });
      continue;
    }
    try {
      const found = filesInArchive(new Uint8Array(await file.arrayBuffer()));
      read.push(...found.map(({ path, text }) => ({ name: path, text })));
    } catch (thrown) {
      const why = thrown instanceof Error ? thrown.message : 'it is no archive';
      throw new Error(`${file.name} cannot be read: ${why}`, { cause: thrown });
    }
  }
  if (read.length === 0) throw new Error('There is no JSON file in it.');
  return read;
}
