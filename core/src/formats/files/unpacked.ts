import { Gunzip, Unzip, UnzipInflate } from 'fflate';
import { joined } from './joined';

/** Bytes are given to the unpacker in pieces, so that no more is unpacked at once than is wanted. */
const piece = 16_384;

/** A packed file that cannot be unpacked, with the sentence that says why. */
export class NotUnpacked extends Error {}

/** How much a file may hold once it is unpacked, in bytes. */
export const mostUnpacked = 1_000_000_000;

/**
 * Returns a file unpacked where it is packed by gzip (RFC 1952) or is a ZIP archive (APPNOTE 6.3) with one file in it, and as it is otherwise. A
 * workbook (XLSX) is an archive too, and stays one.
 *
 * @throws NotUnpacked where it is damaged, holds several files, or more than `most` bytes
 */
export async function* unpacked(
  bytes: AsyncIterable<Uint8Array>,
  most = mostUnpacked,
): AsyncGenerator<Uint8Array> {
  let unpack: ((part: Uint8Array, last: boolean) => readonly Uint8Array[]) | undefined;
  let held = new Uint8Array(0);
  let total = 0;
  let isKnown = false;
  const counted = (parts: readonly Uint8Array[]) => {
    for (const { length } of parts) total += length;
    if (total > most)
      throw new NotUnpacked(
        `The file unpacks into more than ${Math.round(most / 1_000_000).toLocaleString('en')} million bytes, which is more than is read here.`,
      );
    return parts;
  };
  for await (const part of bytes) {
    if (!isKnown) {
      held = joined([held, part]);
      // Enough to know a ZIP archive and the name of its first file.
      if (held.length < 128) continue;
    }
    const now = isKnown ? part : held;
    if (!isKnown) {
      isKnown = true;
      unpack = unpackerOf(now);
    }
    if (!unpack) yield now;
    else
      for (let at = 0; at < now.length; at += piece)
        yield* counted(unpack(now.subarray(at, at + piece), false));
  }
  if (!isKnown && held.length > 0) {
    unpack = unpackerOf(held);
    if (!unpack) yield held;
    else yield* counted(unpack(held, false));
  }
  if (unpack) yield* counted(unpack(new Uint8Array(0), true));
}

/** Returns whether bytes are the beginning of a workbook: an archive whose first file belongs to the Open Packaging Conventions (ISO/IEC 29500-2). */
export function isWorkbook(bytes: Uint8Array): boolean {
  if (!isZip(bytes)) return false;
  const name = firstName(bytes);
  return ['[Content_Types].xml', '_rels/', 'xl/', 'docProps/'].some((start) => name.startsWith(start));
}

const isZip = ([one, two, three, four]: Uint8Array) =>
  one === 0x50 && two === 0x4b && three === 3 && four === 4;
const isGzip = ([one, two, three]: Uint8Array) => one === 0x1f && two === 0x8b && three === 8;

/** Returns the name of the first file of an archive (APPNOTE 6.3, section 4.3.7). */
function firstName(bytes: Uint8Array): string {
  const length = (bytes[26] ?? 0) + 256 * (bytes[27] ?? 0);
  return new TextDecoder().decode(bytes.subarray(30, 30 + length));
}

function unpackerOf(beginning: Uint8Array) {
  if (isGzip(beginning)) return gunzip();
  return isZip(beginning) && !isWorkbook(beginning) ? unzip() : undefined;
}

function gunzip() {
  let out: Uint8Array[] = [];
  const stream = new Gunzip((part) => out.push(part));
  return (part: Uint8Array, last: boolean) => {
    try {
      stream.push(part, last);
    } catch {
      throw new NotUnpacked('The file is packed by gzip, and it is damaged or cut off.');
    }
    const taken = out;
    out = [];
    return taken;
  };
}

function unzip() {
  let out: Uint8Array[] = [];
  let wrong: string | undefined;
  let name: string | undefined;
  let ended = false;
  const stream = new Unzip((file) => {
    if (file.name.endsWith('/')) return;
    if (name !== undefined) {
      wrong = `The archive holds “${name}” and “${file.name}”; send an archive with one file, or the files by themselves.`;
      return;
    }
    name = file.name;
    file.ondata = (thrown, part, last) => {
      if (thrown) wrong = `“${file.name}” in the archive is damaged.`;
      else out.push(part);
      ended ||= last;
    };
    file.start();
  });
  stream.register(UnzipInflate);
  return (part: Uint8Array, last: boolean) => {
    try {
      stream.push(part, last);
    } catch {
      wrong ??= 'The archive is damaged or cut off.';
    }
    if (last && wrong === undefined)
      wrong =
        name === undefined
          ? 'The archive holds no file.'
          : ended
            ? undefined
            : 'The archive is damaged or cut off.';
    if (wrong !== undefined) throw new NotUnpacked(wrong);
    const taken = out;
    out = [];
    return taken;
  };
}
