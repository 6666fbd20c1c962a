import { createHash } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { v7 as uuid } from 'uuid';
import type { ArrivalWay, FileHead, FileSettings, InletType } from '@vast-knot/core';
import { BeyondLimits, type Computer } from '../compute/computer';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import type { Registry } from '../registry/registry';
import {
  beginArrival,
  keepPart,
  keepWhole,
  partsOf,
  readArrival,
  removeArrival,
  usualLayouts,
  type KeptArrival,
} from './repository';

/** Largest file that is taken, and of how many bytes the beginning is looked at; a workbook is looked at as a whole. */
const [longestFile, headBytes, longestWorkbook] = [500_000_000, 300_000, 50_000_000];
/** A file is kept in parts of about so many bytes. */
const partBytes = 1_000_000;

/** What files are taken in with. */
interface Receiving {
  readonly pool: Pool;
  readonly computer: Computer;
}

/** A record type whose records come as files, by its names. */
export interface TypeNamed {
  readonly system: string;
  readonly recordType: string;
}

/** A file that is sent, part by part. */
interface Sent {
  readonly name: string;
  readonly body: AsyncIterable<Uint8Array>;
  readonly way: ArrivalWay;
  readonly by: string;
  /** What its records become; without it that is found out. */
  readonly wanted?: TypeNamed | undefined;
}

/** Takes a file in, whatever it holds: it is kept as it came, its beginning is looked at, and a layout is proposed. */
export async function receive(
  { pool, computer }: Receiving,
  registry: Registry,
  { name, body, way, by, wanted }: Sent,
): Promise<KeptArrival> {
  if (wanted && !inletType(registry, wanted))
    throw notFound(`inlet ${wanted.system} for ${wanted.recordType}`);
  const id = uuid();
  await beginArrival(pool, { id, name, way, by });
  try {
    const whole = await keepParts(pool, id, body);
    const head = await headOf({ pool, computer }, registry, { id, name, bytes: whole.bytes });
    const proposed = await proposedFor({ pool, computer }, registry, head, wanted);
    await keepWhole(pool, id, { ...whole, head, ...proposed });
  } catch (thrown) {
    await removeArrival(pool, id);
    throw thrown;
  }
  const kept = await readArrival(pool, id);
  if (!kept) throw notFound('such file');
  return kept;
}

async function keepParts(pool: Pool, id: string, body: AsyncIterable<Uint8Array>) {
  const hash = createHash('sha256');
  let held: Uint8Array[] = [];
  let [heldBytes, bytes, n] = [0, 0, 0];
  const flush = async () => {
    if (heldBytes === 0) return;
    await keepPart(pool, id, n++, Buffer.concat(held));
    held = [];
    heldBytes = 0;
  };
  for await (const part of wholly(body)) {
    bytes += part.length;
    if (bytes > longestFile)
      throw new HttpProblem(
        413,
        'Too large',
        `The file is larger than ${longestFile / 1_000_000} million bytes; divide it, or pack it.`,
      );
    hash.update(part);
    held.push(part);
    heldBytes += part.length;
    if (heldBytes >= partBytes) await flush();
  }
  await flush();
  if (bytes === 0) throw new HttpProblem(422, 'Not valid', 'The file is empty.');
  return { bytes, digest: hash.digest('hex') };
}

/** Returns the parts of a body. Throws a 400 where whoever sends it goes away. */
async function* wholly(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const parts = body[Symbol.asyncIterator]();
  for (;;) {
    const next = await parts.next().catch((): never => {
      throw new HttpProblem(400, 'Not whole', 'The file did not come whole.');
    });
    if (next.done === true) return;
    yield next.value;
  }
}

/** Returns the beginning of a file that is kept, read in a thread that computes. Throws a 413 where that takes too much. */
export async function headOf(
  { pool, computer }: Receiving,
  registry: Registry,
  { id, name, bytes }: Pick<KeptArrival, 'id' | 'name' | 'bytes'>,
  file?: FileSettings,
): Promise<FileHead> {
  const some: Uint8Array[] = [];
  let length = 0;
  for await (const part of partsOf(pool, id)) {
    some.push(part);
    length += part.length;
    const isArchive = some[0]?.[0] === 0x50 && some[0][1] === 0x4b;
    if (length >= (isArchive ? longestWorkbook : headBytes)) break;
  }
  const asked = {
    name,
    bytes: new Uint8Array(Buffer.concat(some)),
    whole: length === bytes,
    ...(file && { file }),
  };
  return tooMuch(computer.run('fileHead', asked, registry));
}

/** Returns how a file that just came may be laid out, for which record type. */
async function proposedFor(
  { pool, computer }: Receiving,
  registry: Registry,
  { file, rows }: FileHead,
  wanted: TypeNamed | undefined,
) {
  const none = { system: null, recordType: null, layout: null, ...wanted };
  if (!file) return none;
  const usual = await usualLayouts(pool, file.kind);
  const types = (wanted ? [wanted] : inletTypes(registry)).flatMap((named): readonly InletType[] => {
    const type = inletType(registry, named);
    const own = usual.find(
      ({ system, recordType }) => system === named.system && recordType === named.recordType,
    );
    return type ? [{ system: named.system, type, ...(own && { usual: own.layout.lines }) }] : [];
  });
  const values = rows.flatMap((row) => (row.ok ? [row.value] : []));
  const proposed = await tooMuch(computer.run('layout', { file, values, types }, registry));
  if (!proposed) return none;
  // Where it is laid out as files of its kind are, it is tidied as they are.
  const own = usual.find(
    ({ system, recordType, layout }) =>
      system === proposed.system &&
      recordType === proposed.recordType &&
      isDeepStrictEqual(layout.lines, proposed.layout.lines),
  );
  const tidy = own?.layout.tidy;
  return tidy ? { ...proposed, layout: { ...proposed.layout, tidy } } : proposed;
}

async function tooMuch<T>(computed: Promise<T>): Promise<T> {
  try {
    return await computed;
  } catch (thrown) {
    if (!(thrown instanceof BeyondLimits)) throw thrown;
    const detail = `${thrown.message} Divide the file, or send it as CSV.`;
    throw new HttpProblem(413, 'Too much work', detail);
  }
}

/** Returns a record type whose records come as files; undefined where it is none. */
export function inletType({ catalog, connectors }: Registry, { system, recordType }: TypeNamed) {
  const connector = connectors.get(system);
  return connector && !connector.records ? catalog.recordType(system, recordType) : undefined;
}

function inletTypes({ catalog, connectors }: Registry): readonly TypeNamed[] {
  return catalog.systems.flatMap(({ key, recordTypes }) =>
    connectors.has(key) && !connectors.get(key)?.records
      ? recordTypes.map(({ name }) => ({ system: key, recordType: name }))
      : [],
  );
}
