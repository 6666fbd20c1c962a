import { createHash } from 'node:crypto';
import type { Request } from 'express';
import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  fileFormat,
  fileSettingsSchema,
  knownPlaces,
  layoutSchema,
  leafFields,
  readLayoutText,
  rowStandings,
  suggestLayout,
  type ArrivalFilter,
  type ArrivalRow,
  type ArrivalRowPage,
  type ArrivalRowWhole,
  type FileHead,
  type FileSettings,
  type Json,
  type Layout,
} from '@vast-knot/core';
import { applyFileKind, type ApplyAsked } from '../arrivals/apply';
import { lookAtFileKind, type LookAsked } from '../arrivals/look';
import {
  beginArrival,
  countChosen,
  countRows,
  keepLayout,
  keepPart,
  keepRows,
  keepUsualLayout,
  keepWhole,
  listArrivals,
  listRows,
  mendRow,
  noteLook,
  partsOf,
  readArrival,
  readRow,
  removeArrival,
  summariesOf,
  usualLayouts,
  viewOf,
  type KeptArrival,
  type KeptRow,
  type RowChoice,
} from '../arrivals/repository';
import { judgeLaid, layRow, mendsOf, readyArrival, reportOf, type ReadyArrival } from '../arrivals/rows';
import { resultsOf } from '../arrivals/result';
import type { Pool } from '../db/pool';
import { giveList, givenAs, giveParts, paged as pages, type GivenAs } from '../http/giveList';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { beginJob, readJob } from '../jobs/repository';
import { checkRight } from '../people/session';
import type { Registry } from '../registry/registry';
import { computed } from './computed';
import { uuidOf } from './params';
import { get, patch, personOf, post, put, type AppParts, type Handle, type Route } from './route';

/** Largest file that is taken, and of how many bytes the beginning is looked at; a workbook is looked at as a whole. */
const [longestFile, headBytes, longestWorkbook] = [500_000_000, 300_000, 50_000_000];
/** A file is kept in parts of about so many bytes. */
const partBytes = 1_000_000;
const [pageSize, listSize] = [200, 100];

async function kept(id: string, { pool }: Pick<AppParts, 'pool'>): Promise<KeptArrival> {
  const found = await readArrival(pool, uuidOf(id, 'file'));
  if (!found) throw notFound('such file');
  return found;
}

function ready(arrival: KeptArrival, registry: Registry): ReadyArrival {
  const found = readyArrival(arrival, registry);
  if (!found.ok) throw new HttpProblem(422, 'Not ready', found.because);
  return found.ready;
}

const sendQuery = Joi.object<{ name: string; system?: string; recordType?: string }>({
  name: Joi.string().trim().min(1).max(200).default('file'),
  system: Joi.string().max(40),
  recordType: Joi.string().max(120),
}).and('system', 'recordType');

/** Takes a file in, whatever it holds: it is kept as it came, and its beginning is looked at. */
const send: Handle<'/arrivals'> = async (request, response, parts) => {
  const { name, system, recordType } = parsed(sendQuery, request.query);
  const wanted = system !== undefined && recordType !== undefined ? { system, recordType } : undefined;
  const arrival = await receive(request, parts, { name, wanted });
  response.status(201).json(await viewOf(parts.pool, arrival));
};

const rowsQuery = Joi.object<{ name: string; apply: 'yes' | 'no' }>({
  name: Joi.string().trim().min(1).max(200).default('file.csv'),
  apply: Joi.valid('yes', 'no').default('yes'),
});

/**
 * Takes a file in for one record type, from a program: what its rows would do is looked at, and what can be applied is. A file that came and was applied
 * before waits for a person.
 */
const sendRows: Handle<'/inlets/:system/:recordType/rows'> = async (request, response, parts) => {
  const { name, apply } = parsed(rowsQuery, request.query);
  const { system, recordType } = request.params;
  if (apply === 'yes') checkRight(request, 'files.apply');
  const arrival = await receive(request, parts, { name, wanted: { system, recordType } });
  const { sameAs } = await viewOf(parts.pool, arrival);
  if (readyArrival(arrival, await parts.registry.get()).ok)
    await beginLooking(parts.pool, arrival, personOf(request), apply === 'yes' && !sameAs);
  response.status(202).json(await viewOf(parts.pool, await kept(arrival.id, parts)));
};

/** What is said of a file that is sent. */
interface Sent {
  readonly name: string;
  readonly wanted: TypeNamed | undefined;
}

async function receive(request: Request, parts: AppParts, { name, wanted }: Sent): Promise<KeptArrival> {
  const registry = await parts.registry.get();
  if (wanted && !inletType(registry, wanted))
    throw notFound(`inlet ${wanted.system} for ${wanted.recordType}`);
  const id = uuid();
  const by = personOf(request);
  await beginArrival(parts.pool, { id, name, way: request.person?.token ? 'address' : 'page', by });
  try {
    const whole = await keepParts(parts.pool, id, request as AsyncIterable<Buffer>);
    const head = await headOf(parts, registry, { id, name, bytes: whole.bytes });
    const laid = await layoutFor(parts.pool, registry, head, wanted);
    await keepWhole(parts.pool, id, { ...whole, head, ...laid });
  } catch (thrown) {
    await removeArrival(parts.pool, id);
    throw thrown;
  }
  return kept(id, parts);
}

async function keepParts(pool: Pool, id: string, body: AsyncIterable<Buffer>) {
  const hash = createHash('sha256');
  let held: Buffer[] = [];
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
async function* wholly(body: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  const parts = body[Symbol.asyncIterator]();
  for (;;) {
    const next = await parts.next().catch((): never => {
      throw new HttpProblem(400, 'Not whole', 'The file did not come whole.');
    });
    if (next.done === true) return;
    yield next.value;
  }
}

/** Returns the beginning of a file that is kept, read away from the thread that answers. */
async function headOf(
  parts: AppParts,
  registry: Registry,
  { id, name, bytes }: Pick<KeptArrival, 'id' | 'name' | 'bytes'>,
  file?: FileSettings,
): Promise<FileHead> {
  const some: Uint8Array[] = [];
  let length = 0;
  for await (const part of partsOf(parts.pool, id)) {
    some.push(part);
    length += part.length;
    const isWorkbook = some[0]?.[0] === 0x50 && some[0][1] === 0x4b;
    if (length >= (isWorkbook ? longestWorkbook : headBytes)) break;
  }
  const asked = {
    name,
    bytes: new Uint8Array(Buffer.concat(some)),
    whole: length === bytes,
    ...(file && { file }),
  };
  return computed(parts, 'fileHead', asked, registry);
}

interface TypeNamed {
  readonly system: string;
  readonly recordType: string;
}

/** Returns a record type whose records come as files; undefined where it is none. */
function inletType({ catalog, connectors }: Registry, { system, recordType }: TypeNamed) {
  const connector = connectors.get(system);
  return connector && !connector.records ? catalog.recordType(system, recordType) : undefined;
}

/**
 * Returns how a file is laid out that just came: as files of its kind are, where somebody said so and its places are there; otherwise as the names of its
 * places say, for the record type of which most fields are found.
 */
async function layoutFor(
  pool: Pool,
  registry: Registry,
  head: FileHead,
  wanted: TypeNamed | undefined,
): Promise<{ system: string | null; recordType: string | null; layout: Layout | null }> {
  const none = { system: null, recordType: null, layout: null, ...wanted };
  const { file } = head;
  if (!file) return none;
  const places = knownPlaces(
    fileFormat(file),
    head.rows.flatMap((row) => (row.ok ? [row.value] : [])),
  );
  const known = new Set(places.map(({ address }) => address));
  const usual = await usualLayouts(pool, file.kind);
  const types = wanted ? [wanted] : inletTypes(registry);
  const proposed = types.flatMap((each) => {
    const type = inletType(registry, each);
    if (!type) return [];
    const own = usual.find(
      ({ system, recordType }) => system === each.system && recordType === each.recordType,
    );
    const fits = own && own.layout.lines.filter(({ from }) => known.has(from)).length > 0;
    const lines = fits ? own.layout.lines : suggestLayout(type, places);
    const filled = lines.filter(({ from }) => from !== '').length + (fits ? 1000 : 0);
    return [{ ...each, filled, share: filled / leafFields(type.fields).length, lines }];
  });
  const [best] = proposed.sort((one, other) => other.share - one.share);
  if (!best || (best.filled === 0 && !wanted)) return none;
  return { system: best.system, recordType: best.recordType, layout: { file, lines: best.lines } };
}

function inletTypes({ catalog, connectors }: Registry): readonly TypeNamed[] {
  return catalog.systems.flatMap(({ key, recordTypes }) =>
    connectors.get(key)?.records === undefined && connectors.has(key)
      ? recordTypes.map(({ name }) => ({ system: key, recordType: name }))
      : [],
  );
}

const listQuery = Joi.object<{ before?: string }>({ before: Joi.string().guid() });

const list: Handle<'/arrivals'> = async (request, response, { pool }) => {
  const { before = null } = parsed(listQuery, request.query);
  response.json(await summariesOf(pool, await listArrivals(pool, { before, limit: listSize })));
};

const read: Handle<'/arrivals/:id'> = async (request, response, parts) => {
  response.json(await viewOf(parts.pool, await kept(request.params.id, parts)));
};

const layoutBody = Joi.object<TypeNamed & { layout: Layout; usual: boolean }>({
  system: Joi.string().max(40).required(),
  recordType: Joi.string().max(120).required(),
  layout: layoutSchema.required(),
  usual: Joi.boolean().default(false),
});

/** Says how a file is laid out, from now on; with `usual` also those of its kind that come later. */
const layOut: Handle<'/arrivals/:id/layout'> = async (request, response, parts) => {
  const seen = requiredRevision(request.get('if-match'));
  const { system, recordType, layout, usual } = parsed(layoutBody, request.body);
  const arrival = await kept(request.params.id, parts);
  const registry = await parts.registry.get();
  if (!inletType(registry, { system, recordType })) throw notFound(`inlet ${system} for ${recordType}`);
  const same = JSON.stringify(arrival.head.file) === JSON.stringify(layout.file);
  const head = same ? arrival.head : await headOf(parts, registry, arrival, layout.file);
  if (!(await keepLayout(parts.pool, arrival.id, seen, { system, recordType, layout, head })))
    throw new HttpProblem(
      412,
      'Changed in between',
      'Somebody else changed how this file is laid out. Load it again.',
    );
  if (usual) await keepUsualLayout(parts.pool, { system, recordType, layout, by: personOf(request) });
  response.json(await viewOf(parts.pool, await kept(arrival.id, parts)));
};

const headBody = Joi.object<{ file: FileSettings }>({ file: fileSettingsSchema.required() });

/** The beginning of a file as it would be read otherwise; nothing is kept. */
const tryHead: Handle<'/arrivals/:id/head'> = async (request, response, parts) => {
  const { file } = parsed(headBody, request.body);
  const arrival = await kept(request.params.id, parts);
  response.json(await headOf(parts, await parts.registry.get(), arrival, file));
};

const textBody = Joi.object<TypeNamed & { file: FileSettings; text: string }>({
  system: Joi.string().max(40).required(),
  recordType: Joi.string().max(120).required(),
  file: fileSettingsSchema.required(),
  text: Joi.string().allow('').max(1_000_000).required(),
});

/** Reads lines from two columns; a name that nobody has is refused with its line. */
const readText: Handle<'/arrivals/:id/layout/text'> = async (request, response, parts) => {
  const { text, file, ...named } = parsed(textBody, request.body);
  const arrival = await kept(request.params.id, parts);
  const type = inletType(await parts.registry.get(), named);
  if (!type) throw notFound(`inlet ${named.system} for ${named.recordType}`);
  const isTable = file.kind === 'csv' || file.kind === 'xlsx';
  const places = knownPlaces(
    fileFormat(file),
    arrival.head.rows.flatMap((row) => (row.ok ? [row.value] : [])),
  );
  const known = isTable ? { known: new Set(places.map(({ address }) => address)) } : {};
  const lines = readLayoutText(text, type, { file, ...known });
  if (!lines.ok) {
    const [first = 'It cannot be read.'] = lines.problems;
    throw new HttpProblem(
      422,
      'Not valid',
      first,
      lines.problems.map((message) => ({ at: 'text', message })),
    );
  }
  response.json({ lines: lines.lines });
};

/** Begins to look at all rows of a file. */
const look: Handle<'/arrivals/:id/looks'> = async (request, response, parts) => {
  const arrival = await kept(request.params.id, parts);
  ready(arrival, await parts.registry.get());
  await refuseAtWork(parts.pool, arrival);
  response.status(202).json({ job: await beginLooking(parts.pool, arrival, personOf(request), false) });
};

/** Begins to look at a file; with `applies`, what can be applied then is. Returns the id of the job. */
async function beginLooking(pool: Pool, arrival: KeptArrival, by: string, applies: boolean): Promise<string> {
  const job = uuid();
  const asked: LookAsked = { arrival: arrival.id, ...(applies && { apply: { job: uuid(), by } }) };
  await noteLook(pool, arrival.id, job, arrival.revision);
  await beginJob(pool, { id: job, kind: lookAtFileKind.kind, asked: asked as unknown as Json, by });
  return job;
}

/** Throws where a job is at a file. */
async function refuseAtWork(pool: Pool, arrival: KeptArrival): Promise<void> {
  const [{ look: looking, applying } = { look: null, applying: null }] = await summariesOf(pool, [arrival]);
  for (const [job, what] of [
    [looking, 'The file is being looked at'],
    [applying, 'The file is being applied'],
  ] as const)
    if (job && (await isOpen(pool, job.id)))
      throw new HttpProblem(409, 'At work', `${what}. Wait for it, or stop it.`);
}

async function isOpen(pool: Pool, id: string): Promise<boolean> {
  const job = await readJob(pool, id);
  return job?.state === 'waiting' || job?.state === 'at work' || job?.state === 'paused';
}

const filterMembers = {
  standing: Joi.valid(...rowStandings),
  search: Joi.string().allow('').max(200),
  outcome: Joi.valid('written', 'failed', 'under way'),
};
const paged = Joi.object<ArrivalFilter & { from: string }>({
  ...filterMembers,
  from: Joi.string()
    .pattern(/^\d{1,9}$/)
    .default('0'),
});

const rows: Handle<'/arrivals/:id/rows'> = async (request, response, parts) => {
  const arrival = await kept(request.params.id, parts);
  const { from, ...filter } = parsed(paged, request.query);
  const found = readyArrival(arrival, await parts.registry.get());
  const listed = await listRows(parts.pool, arrival.id, filter, {
    after: Number(from),
    limit: pageSize + 1,
  });
  const shown = listed.slice(0, pageSize);
  response.json({
    rows: shown.map((row) => rowOf(found.ok ? found.ready : undefined, arrival, row)),
    ...(await countRows(parts.pool, arrival.id, filter)),
    next: listed.length > pageSize ? (shown.at(-1)?.at ?? null) : null,
  } satisfies ArrivalRowPage);
};

function rowOf(
  ready: ReadyArrival | undefined,
  { mends }: KeptArrival,
  { value, text: _text, ...row }: KeptRow,
): ArrivalRow {
  const record = ready && value ? layRow(ready, { at: row.at, value }).record : {};
  return { ...row, record, mends: mendsOf(mends, row.at) };
}

const placeOf = (text: string): number => {
  const at = Number(text);
  if (!Number.isInteger(at) || at < 0 || at > 2_000_000_000) throw notFound('such row');
  return at;
};

const oneRow: Handle<'/arrivals/:id/rows/:at'> = async (request, response, parts) => {
  const arrival = await kept(request.params.id, parts);
  response.json(await wholeRow(arrival, placeOf(request.params.at), parts));
};

async function wholeRow(arrival: KeptArrival, at: number, parts: AppParts): Promise<ArrivalRowWhole> {
  const row = await readRow(parts.pool, arrival.id, at);
  if (!row) throw notFound('such row');
  const registry = await parts.registry.get();
  const { value } = row;
  const found = readyArrival(arrival, registry);
  const laid = value && found.ok ? layRow(found.ready, { at, value }) : undefined;
  const report =
    laid && found.ok && laid.problems.length === 0 ? await reportOf(registry, found.ready, at, laid) : null;
  return {
    row: rowOf(found.ok ? found.ready : undefined, arrival, row),
    value,
    text: row.text ?? '',
    problems: laid?.problems ?? [],
    report,
  };
}

const mendBody = Joi.object<{ mends: Record<string, string | null> }>({
  mends: Joi.object()
    .pattern(Joi.string().max(200), Joi.string().allow('', null).max(20_000))
    .max(200)
    .required(),
});

/** Values typed in the place of those of one row; the row is judged anew at once. */
const mend: Handle<'/arrivals/:id/rows/:at'> = async (request, response, parts) => {
  const { mends } = parsed(mendBody, request.body);
  const before = await kept(request.params.id, parts);
  const at = placeOf(request.params.at);
  const registry = await parts.registry.get();
  const { type } = ready(before, registry);
  const row = await readRow(parts.pool, before.id, at);
  if (!row?.value) throw notFound('such row that could be read');
  if (row.run) throw new HttpProblem(409, 'Applied already', `${row.place} was applied: run ${row.run.id}.`);
  const fields = new Set(leafFields(type.fields).map(({ path }) => path));
  const stranger = Object.keys(mends).find((field) => !fields.has(field));
  if (stranger !== undefined)
    throw new HttpProblem(422, 'Not valid', `${type.label} has no field “${stranger}”.`, [
      { at: `mends.${stranger}`, message: 'There is no such field.' },
    ]);
  await refuseAtWork(parts.pool, before);
  await mendRow(parts.pool, before.id, at, mends);
  const arrival = await kept(before.id, parts);
  const mended = ready(arrival, registry);
  const laid = layRow(mended, { at, value: row.value });
  const judged = await judgeLaid(registry, mended, at, laid);
  await keepRows(parts.pool, arrival.id, [
    { at, place: row.place, value: row.value, text: null, recordId: laid.key ?? null, ...judged },
  ]);
  // One row was judged anew: what is known of the others still holds.
  if (before.look !== null && before.lookedRevision === before.revision)
    await noteLook(parts.pool, arrival.id, before.look, arrival.revision);
  response.json(await wholeRow(await kept(arrival.id, parts), at, parts));
};

const applyBody = Joi.object<RowChoice>({
  filter: Joi.object(filterMembers),
  rows: Joi.array().items(Joi.number().integer().min(0).max(2_000_000_000)).max(10_000),
}).or('filter', 'rows');

/** Begins to apply rows of a file that were looked at. */
const apply: Handle<'/arrivals/:id/applying'> = async (request, response, parts) => {
  const choice = parsed(applyBody, request.body);
  const arrival = await kept(request.params.id, parts);
  ready(arrival, await parts.registry.get());
  if (arrival.lookedRevision === null)
    throw new HttpProblem(409, 'Not looked at', 'Look at what its rows would do first.');
  if (arrival.lookedRevision !== arrival.revision)
    throw new HttpProblem(
      409,
      'Laid out otherwise',
      'How the file is laid out was changed since it was looked at. Look again.',
    );
  await refuseAtWork(parts.pool, arrival);
  const count = await countChosen(parts.pool, arrival.id, choice);
  if (count === 0)
    throw new HttpProblem(
      409,
      'Nothing to apply',
      'None of these rows would do anything, or all of them were applied.',
    );
  const job = uuid();
  const asked = { arrival: arrival.id, job, choice } satisfies ApplyAsked;
  await beginJob(parts.pool, {
    id: job,
    kind: applyFileKind.kind,
    asked: asked as unknown as Json,
    by: personOf(request),
  });
  response.status(202).json({ job, count });
};

/** The file as it came. */
const download: Handle<'/arrivals/:id/file'> = async (request, response, parts) => {
  const { id, name } = await kept(request.params.id, parts);
  response.type('application/octet-stream').attachment(name);
  await giveParts(response, partsOf(parts.pool, id));
};

/** What became of each row, in a file like the one that came. */
const result: Handle<'/arrivals/:id/result'> = async (request, response, parts) => {
  const { id, name, layout } = await kept(request.params.id, parts);
  if (!layout) throw new HttpProblem(422, 'Not ready', 'Nobody said yet what its records become.');
  const { catalog } = await parts.registry.get();
  const plain = name.replace(/\.(gz|zip)$/i, '');
  response.type('application/octet-stream').attachment(`result-${plain}`);
  const written = fileFormat(layout.file).result(resultsOf(parts.pool, id, catalog), layout.file);
  await giveParts(response, written);
};

const rowsFileQuery = Joi.object<ArrivalFilter & GivenAs>({ ...filterMembers, ...givenAs });

/** The rows that a filter lets through, with what each would do, as a list. */
const rowsFile: Handle<'/arrivals/:id/rows-file'> = async (request, response, parts) => {
  const { as, guard, ...filter } = parsed(rowsFileQuery, request.query);
  const { id, name } = await kept(request.params.id, parts);
  await giveList(
    response,
    { as, ...(guard && { guard }) },
    {
      name: `${name} rows`,
      columns: ['Row', 'Key', 'What it does', 'Why', 'Run', 'As the file has it'].map((label) => ({
        label,
        name: label,
      })),
      rows: pages<number>(undefined, async (at = -1) => {
        const some = await listRows(parts.pool, id, filter, { after: at, limit: 1000 });
        return {
          rows: some.map(({ place, recordId, standing, because, run, value, text }) => [
            place,
            recordId,
            run ? run.state : standing,
            run ? run.because : because,
            run?.id ?? null,
            value ?? text,
          ]),
          next: some.length < 1000 ? undefined : some.at(-1)?.at,
        };
      }),
    },
  );
};

/** Files that came in: what each of their rows would do, and applying those that are chosen. */
export const arrivalRoutes: readonly Route[] = [
  post('/arrivals', 'files.send', send, { query: sendQuery, file: true, reads: [] }),
  post('/inlets/:system/:recordType/rows', 'files.send', sendRows, {
    query: rowsQuery,
    file: true,
    reads: [],
  }),
  get('/arrivals', 'files.read', list, { query: listQuery }),
  get('/arrivals/:id', 'files.read', read),
  get('/arrivals/:id/file', 'files.read', download),
  get('/arrivals/:id/result', 'files.read', result),
  get('/arrivals/:id/rows-file', 'files.read', rowsFile, { query: rowsFileQuery }),
  put('/arrivals/:id/layout', 'files.send', layOut, { body: layoutBody, revision: true }),
  post('/arrivals/:id/layout/text', 'files.read', readText, { body: textBody }),
  post('/arrivals/:id/head', 'files.read', tryHead, { body: headBody }),
  post('/arrivals/:id/looks', 'files.send', look),
  get('/arrivals/:id/rows', 'files.read', rows, { query: paged }),
  get('/arrivals/:id/rows/:at', 'files.read', oneRow),
  patch('/arrivals/:id/rows/:at', 'files.send', mend, { body: mendBody }),
  post('/arrivals/:id/applying', 'files.apply', apply, { body: applyBody }),
];
