import type { Response } from 'express';
import Joi from 'joi';
import { rowWriters, TooManyRows, type Json, type WritingTools, type WrittenColumn } from '@vast-knot/core';
import { HttpProblem } from './problem';

/** In which format a list is given, and whether cells that a spreadsheet would take for formulas are marked as text. */
export interface GivenAs {
  readonly as: string;
  readonly guard?: 'yes';
}

/** What an address that gives a list takes beside its filter. */
export const givenAs = {
  as: Joi.valid(...rowWriters.map(({ kind }) => kind)).default('csv'),
  guard: Joi.valid('yes'),
};

/** A list that is given: what its file is called, without an ending, its columns, and its rows as they come. */
export interface GivenList {
  readonly name: string;
  readonly columns: readonly WrittenColumn[];
  readonly rows: AsyncIterable<readonly Json[]>;
}

/** Gives a list as a file, part by part as it is read. Throws a 413 where the format takes no more rows. */
export async function giveList(
  response: Response,
  { as, guard }: GivenAs,
  { name, columns, rows }: GivenList,
  tools: WritingTools,
): Promise<void> {
  const writer = rowWriters.find(({ kind }) => kind === as);
  if (!writer) throw new RangeError(`There is no writer of ${as}.`);
  response.type(writer.mediaType);
  response.attachment(`${name.replaceAll(/[^\p{L}\p{N}]+/gu, '-').slice(0, 80)}${writer.ending}`);
  await giveParts(response, writer.write({ columns, rows, guard: guard === 'yes' }, tools));
}

/** Gives a file part by part. Throws a 413 where its format takes no more rows. */
export async function giveParts(response: Response, parts: AsyncIterable<Uint8Array>): Promise<void> {
  try {
    for await (const part of parts) await sent(response, part);
  } catch (thrown) {
    if (!(thrown instanceof TooManyRows)) throw thrown;
    response.removeHeader('content-disposition');
    throw new HttpProblem(413, 'Too many rows', thrown.message);
  }
  response.end();
}

/** Sends a part once there is room for it, so that a reader who is slow fills no memory. */
async function sent(response: Response, part: Uint8Array): Promise<void> {
  if (response.destroyed) throw new HttpProblem(400, 'Gone', 'Whoever asked is gone.');
  if (!response.write(part))
    await new Promise<void>((done) => {
      const goOn = () => {
        response.off('drain', goOn).off('close', goOn);
        done();
      };
      response.on('drain', goOn).on('close', goOn);
    });
}

/** Returns rows one by one from pages that are asked for after one another, until there are no more. */
export async function* paged<P>(
  first: P | undefined,
  page: (
    at: P | undefined,
  ) => Promise<{ readonly rows: readonly (readonly Json[])[]; readonly next: P | undefined }>,
): AsyncGenerator<readonly Json[]> {
  let at = first;
  do {
    const { rows, next } = await page(at);
    yield* rows;
    at = next;
  } while (at !== undefined);
}
