import { isDue, lastDue, missingSince, type FileSource, type FileSourceView } from '@vast-knot/core';
import type { Dispatcher } from 'undici';
import { beginByItself } from '../arrivals/begin';
import { receive } from '../arrivals/receive';
import { removeArrival } from '../arrivals/repository';
import type { Computer } from '../compute/computer';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { HttpProblem } from '../http/problem';
import type { Registry } from '../registry/registry';
import { fetchFile } from './fetchFile';
import { filesIn } from './folders';
import {
  expectingSources,
  forgetGone,
  listSources,
  noteLooked,
  noteMissing,
  noteTaken,
  openSecret,
  readSource,
  takenMarks,
} from './repository';

/** What files are looked for with. */
export interface Looking {
  readonly pool: Pool;
  readonly seal: Seal;
  readonly registry: Registry;
  readonly computer: Computer;
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  /** The folders that the server may watch, by name. */
  readonly folders: Readonly<Record<string, string>>;
  readonly now: Date;
}

/** Files of a folder that are taken with one look; the others are with the next. */
const mostAtOnce = 20;

/** Asks for a source to be looked at. One look of each at a time. */
export async function queueLook(pool: Pool, id: string): Promise<void> {
  await pool.query(
    `SELECT graphile_worker.add_job('look_for_files', json_build_object('source', $1::text),
       queue_name := 'files-' || $1, job_key := 'files/' || $1, max_attempts := 3)`,
    [id],
  );
}

/** Asks for the sources that are due at a minute: addresses by their schedule, folders each time; and notes which files are missing. */
export async function filesTick(pool: Pool, minute: string): Promise<void> {
  for (const { id, origin } of await listSources(pool))
    if (origin.kind === 'folder' || isDue(origin.schedule, minute)) await queueLook(pool, id);
  for (const { id, definition, since, lastCame } of await expectingSources(pool)) {
    const { expected } = definition;
    if (expected)
      await noteMissing(pool, id, missingSince(expected, { now: new Date(minute), since, lastCame }) ?? null);
  }
}

/** Looks at one source, takes what is new, and notes how it went. Nothing is thrown for what can be expected of the other side. */
export async function lookForFiles(looking: Looking, id: string): Promise<void> {
  const { pool } = looking;
  const source = await readSource(pool, id);
  if (!source) return;
  let problem: string | null;
  try {
    problem =
      source.origin.kind === 'folder'
        ? await lookInFolder(looking, source)
        : await fetchFrom(looking, source);
  } catch (thrown) {
    if (!(thrown instanceof HttpProblem)) throw thrown;
    problem = thrown.detail;
  }
  await noteLooked(pool, id, problem);
  const { expected, missingSince: missing } = source;
  // What came late is missing no more at once, and not with the next minute.
  if (expected && missing !== null) await noteComeLate(pool, id, expected, looking.now);
}

async function noteComeLate(
  pool: Pool,
  id: string,
  expected: NonNullable<FileSource['expected']>,
  now: Date,
) {
  const found = (await expectingSources(pool)).find((each) => each.id === id);
  const due = lastDue(expected, now);
  if (found?.lastCame && due && found.lastCame > due) await noteMissing(pool, id, null);
}

async function lookInFolder(looking: Looking, source: FileSourceView): Promise<string | null> {
  const { pool, folders, now } = looking;
  const { origin, id } = source;
  if (origin.kind !== 'folder') return null;
  const folder = Object.hasOwn(folders, origin.folder) ? folders[origin.folder] : undefined;
  if (folder === undefined) return `The settings of the server name no folder “${origin.folder}”.`;
  const lying = await filesIn(folder, origin.pattern, now).catch((thrown: unknown) => {
    // The message of the file system names folders of the server.
    const because =
      thrown instanceof Error && !('code' in thrown) ? thrown.message : 'it is not there, or may not be read';
    return `The folder “${origin.folder}” cannot be read: ${because}.`;
  });
  if (typeof lying === 'string') return lying;
  await forgetGone(
    pool,
    id,
    lying.map(({ name }) => name),
  );
  const taken = await takenMarks(pool, id);
  const fresh = lying.filter(({ name, mark }) => taken.get(name) !== mark);
  for (const { name, mark, bytes } of fresh.slice(0, mostAtOnce)) {
    const arrival = await takeIn(looking, source, name, bytes());
    await noteTaken(pool, { source: id, name, mark, arrival });
  }
  return null;
}

/** The name under which it is noted what an address gave. */
const fetched = '';

async function fetchFrom(looking: Looking, source: FileSourceView): Promise<string | null> {
  const { pool, seal } = looking;
  const { origin, id } = source;
  if (origin.kind !== 'address') return null;
  const secret = await openSecret(pool, seal, id);
  const [tag = '', digest = ''] = ((await takenMarks(pool, id)).get(fetched) ?? '').split('\n');
  const found = await fetchFile(
    origin.url,
    {
      headers: origin.header !== '' && secret !== undefined ? { [origin.header]: secret } : {},
      tag: tag === '' ? undefined : tag,
    },
    looking,
  );
  if (found.is === 'not there') return found.because;
  if (found.is === 'unchanged') return null;
  const kept = await received(looking, source, found.name, found.body);
  // Who tells no tag gives the same content again and again.
  if (kept.digest === digest) await removeArrival(pool, kept.id);
  else if (source.apply) await beginByItself(pool, looking.registry, kept.id, source.name);
  const arrival = kept.digest === digest ? null : kept.id;
  await noteTaken(pool, { source: id, name: fetched, mark: `${found.tag}\n${kept.digest}`, arrival });
  return null;
}

/** Takes one file in, and has it applied where the source says so. Returns its arrival. */
async function takeIn(
  looking: Looking,
  source: FileSourceView,
  name: string,
  body: AsyncIterable<Uint8Array>,
): Promise<string> {
  const { id } = await received(looking, source, name, body);
  if (source.apply) await beginByItself(looking.pool, looking.registry, id, source.name);
  return id;
}

function received(
  looking: Looking,
  { origin, system, recordType, name: by }: FileSourceView,
  name: string,
  body: AsyncIterable<Uint8Array>,
) {
  return receive(looking, looking.registry, {
    name,
    body,
    way: origin.kind === 'folder' ? 'folder' : 'fetched',
    by,
    wanted: { system, recordType },
  });
}
