import { constants } from 'node:fs';
import { copyFile, link, open, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Answer } from '../endpoints/post';
import type { MadeFile } from './file';

/** Files of one name that a folder takes, with numbers. */
const mostOfOneName = 1000;

/**
 * Puts a file into a folder, whole or not at all: it is written under another name first. One that is called the same and holds the same is
 * taken for ours, so that a second try writes nothing; one that holds something else stays, and ours gets a number, unless it is to be
 * replaced.
 */
export async function intoFolder(folder: string, file: MadeFile & { readonly id: string }): Promise<Answer> {
  const beside = join(folder, `.${file.id}.part`);
  try {
    await writeWhole(beside, file.bytes);
    const name = file.replace ? await replaced(folder, file.name, beside) : await added(folder, file, beside);
    return { status: null, answer: `It lies there as “${name}”.`, problem: null };
  } catch (thrown) {
    // What the file system says names folders of the server.
    return { status: null, answer: null, problem: sentenceFor(thrown) };
  } finally {
    await rm(beside, { force: true }).catch(() => undefined);
  }
}

async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  const handle = await open(path, 'w', 0o644);
  try {
    await handle.writeFile(bytes);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

async function replaced(folder: string, name: string, beside: string): Promise<string> {
  await rename(beside, join(folder, name));
  return name;
}

async function added(folder: string, { name, bytes }: MadeFile, beside: string): Promise<string> {
  for (let number = 1; number <= mostOfOneName; number++) {
    const free = number === 1 ? name : numbered(name, number);
    const path = join(folder, free);
    try {
      await placed(beside, path);
      return free;
    } catch (thrown) {
      if (codeOf(thrown) !== 'EEXIST') throw thrown;
      const there = await readFile(path).catch(() => undefined);
      if (there && Buffer.compare(there, bytes) === 0) return free;
    }
  }
  throw new TooManyOfOneName();
}

/** Gives a whole file its name, where nothing is called so. What has no second names for a file gets a copy. */
async function placed(beside: string, path: string): Promise<void> {
  await link(beside, path).catch((thrown: unknown) => {
    const code = codeOf(thrown);
    if (code === 'EEXIST' || code === 'ENOENT' || code === 'EACCES') throw thrown;
    return copyFile(beside, path, constants.COPYFILE_EXCL);
  });
}

class TooManyOfOneName extends Error {}

/** `list (2).csv` */
function numbered(name: string, number: number): string {
  const point = name.lastIndexOf('.');
  return point > 0 ? `${name.slice(0, point)} (${number})${name.slice(point)}` : `${name} (${number})`;
}

function codeOf(thrown: unknown): unknown {
  return typeof thrown === 'object' && thrown !== null && 'code' in thrown ? thrown.code : undefined;
}

function sentenceFor(thrown: unknown): string {
  if (thrown instanceof TooManyOfOneName)
    return `The folder holds ${mostOfOneName} files of this name already; let the rule name each by a date.`;
  switch (codeOf(thrown)) {
    case 'ENOENT':
    case 'ENOTDIR':
      return 'The folder is not there.';
    case 'EACCES':
    case 'EPERM':
    case 'EROFS':
      return 'The server may not write into the folder.';
    case 'ENOSPC':
    case 'EDQUOT':
      return 'There is no room in the folder.';
    case 'EISDIR':
    case 'ENOTEMPTY':
      return 'A folder in it is called the same.';
    default:
      return `The file could not be written (${String(codeOf(thrown) ?? 'no reason told')}).`;
  }
}
