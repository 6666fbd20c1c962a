import Joi from 'joi';
import { rowWriters, type FileData, type JsonObject, type WritingTools } from '@vast-knot/core';

const fileData = Joi.object<FileData>({
  name: Joi.string().max(200).required(),
  format: Joi.valid(...rowWriters.map(({ kind }) => kind)).required(),
  columns: Joi.array().items(Joi.string().allow('')).required(),
  rows: Joi.array().items(Joi.array()).required(),
  replace: Joi.valid(true),
});

/** Returns the file that a message holds; undefined where it holds none. */
export function fileIn(body: JsonObject): FileData | undefined {
  const { error, value } = fileData.validate(body['data'], { convert: false });
  return error ? undefined : (value as FileData);
}

/** A file as it is given away. */
export interface MadeFile {
  readonly name: string;
  readonly mediaType: string;
  readonly bytes: Uint8Array;
  /** It takes the place of one that is called the same. */
  readonly replace?: true;
}

/**
 * Makes the bytes of a file: the same for the same rows, so that a second try writes nothing else.
 *
 * @throws TooManyRows where a workbook takes no more rows
 */
export async function bytesOf(
  { name, format, columns, rows, replace }: FileData,
  tools: WritingTools,
): Promise<MadeFile> {
  const writer = rowWriters.find(({ kind }) => kind === format);
  if (!writer) throw new Error(`There is no format “${format}”.`);
  const parts: Uint8Array[] = [];
  const list = { columns: columns.map((label) => ({ label, name: label })), rows: oneByOne(rows) };
  for await (const part of writer.write(list, tools)) parts.push(part);
  const bytes = new Uint8Array(Buffer.concat(parts));
  return { name, mediaType: writer.mediaType, bytes, ...(replace && { replace }) };
}

async function* oneByOne<T>(items: readonly T[]): AsyncGenerator<T> {
  yield* items;
}
