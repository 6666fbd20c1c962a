import type { FileFormat, FileRow, FormatSettings } from './format';

/** Returns bytes in parts of one size, as they come over a network. */
export async function* inParts(bytes: Uint8Array | string, size = 7): AsyncGenerator<Uint8Array> {
  const all = typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes;
  for (let at = 0; at < all.length; at += size) yield await Promise.resolve(all.subarray(at, at + size));
}

/** Returns the records of a file that comes in parts. */
export async function rowsOf<S extends FormatSettings>(
  format: FileFormat<S>,
  settings: S,
  bytes: Uint8Array | string,
  size?: number,
): Promise<readonly FileRow[]> {
  const rows: FileRow[] = [];
  for await (const some of format.read(inParts(bytes, size), settings)) rows.push(...some);
  return rows;
}

/** Returns what stands at a place of a record. Throws where the place is none. */
export function at<S extends FormatSettings>(
  format: FileFormat<S>,
  written: string,
  row: FileRow | undefined,
) {
  const read = format.address(written);
  if (!read.ok) throw new Error(read.because);
  if (row?.ok !== true) throw new Error(row ? row.because : 'There is no such row.');
  return read.address.read(row.value);
}
