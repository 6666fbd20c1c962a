import { promisify } from 'node:util';
import { brotliDecompress, gunzip, inflate } from 'node:zlib';
import { parseJson, type Json } from '@vast-knot/core';

/** The largest answer that is read, in bytes, packed or not. */
export const largestAnswer = 32 * 1024 * 1024;

/** What an answer holds. */
export type AnswerBody =
  | { readonly is: 'json'; readonly json: Json; readonly text: string }
  /** Not JSON: a page of a portal, or of a proxy. */
  | { readonly is: 'text'; readonly text: string; readonly because: string }
  | { readonly is: 'too large' };

const unpackers: Readonly<
  Record<string, (packed: Buffer, options: { maxOutputLength: number }) => Promise<Buffer>>
> = {
  gzip: promisify(gunzip),
  'x-gzip': promisify(gunzip),
  deflate: promisify(inflate),
  br: promisify(brotliDecompress),
};

/** Reads the body of an answer: unpacked, in its character set, as JSON. */
export async function readBody(
  chunks: AsyncIterable<Buffer>,
  headers: Readonly<Record<string, string>>,
): Promise<AnswerBody> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > largestAnswer) return { is: 'too large' };
    parts.push(chunk);
  }
  let bytes: Buffer = Buffer.concat(parts);
  const encoding = headers['content-encoding']?.trim().toLowerCase() ?? 'identity';
  if (encoding !== 'identity' && bytes.length > 0) {
    const unpack = unpackers[encoding];
    if (!unpack)
      return { is: 'text', text: '', because: `it is packed as “${encoding}”, which is not understood` };
    try {
      bytes = await unpack(bytes, { maxOutputLength: largestAnswer });
    } catch (thrown) {
      const code: unknown =
        typeof thrown === 'object' && thrown !== null && 'code' in thrown ? thrown.code : undefined;
      if (code === 'ERR_BUFFER_TOO_LARGE') return { is: 'too large' };
      return { is: 'text', text: '', because: `it is said to be packed as “${encoding}”, and is not` };
    }
  }
  const type = headers['content-type'] ?? '';
  const text = decode(bytes, /charset\s*=\s*"?([^\s;"]+)/i.exec(type)?.[1]);
  if (text === undefined)
    return { is: 'text', text: '', because: `its character set is not understood (${type})` };
  if (text.trim() === '') return { is: 'json', json: null, text: '' };
  try {
    return { is: 'json', json: parseJson(text), text };
  } catch {
    const what =
      /html/i.test(type) || /^\s*</.test(text) ? 'a page (HTML or XML)' : type === '' ? 'a text' : type;
    return { is: 'text', text, because: `it is ${what}, and not JSON` };
  }
}

function decode(bytes: Buffer, charset: string | undefined): string | undefined {
  try {
    return new TextDecoder(charset ?? 'utf-8').decode(bytes);
  } catch {
    // A name that the Encoding Standard does not know.
    return undefined;
  }
}
