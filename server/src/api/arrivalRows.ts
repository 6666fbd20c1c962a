import Joi from 'joi';
import {
  leafFields,
  rowStandings,
  type ArrivalFilter,
  type ArrivalRow,
  type ArrivalRowPage,
  type ArrivalRowWhole,
} from '@vast-knot/core';
import { alone } from '../arrivals/alone';
import { beginApply, beginLook, readyOrWhy } from '../arrivals/begin';
import type { RowChoice } from '../arrivals/choosing';
import { countRows, keepRows, listRows, readRow, type KeptRow } from '../arrivals/keptRows';
import { mendRow, noteLook, type KeptArrival } from '../arrivals/repository';
import { judgeLaid, layRow, mendsOf, readyArrival, reportOf, type ReadyArrival } from '../arrivals/rows';
import { givenAs, paged as pages, type GivenAs } from '../http/giveList';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { giveList } from './giving';
import { keptArrival, uuidOf } from './params';
import { get, patch, personOf, post, type AppParts, type Handle, type Route } from './route';

const pageSize = 200;

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
  const arrival = await keptArrival(request.params.id, parts);
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
  const arrival = await keptArrival(request.params.id, parts);
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
  const before = await keptArrival(request.params.id, parts);
  const at = placeOf(request.params.at);
  const registry = await parts.registry.get();
  const { type } = readyOrWhy(before, registry);
  const row = await readRow(parts.pool, before.id, at);
  if (!row?.value) throw notFound('such row that could be read');
  if (row.run) throw new HttpProblem(409, 'Applied already', `${row.place} was applied: run ${row.run.id}.`);
  const fields = new Set(leafFields(type.fields).map(({ path }) => path));
  const stranger = Object.keys(mends).find((field) => !fields.has(field));
  if (stranger !== undefined)
    throw new HttpProblem(422, 'Not valid', `${type.label} has no field “${stranger}”.`, [
      { at: `mends.${stranger}`, message: 'There is no such field.' },
    ]);
  await alone(parts.pool, before.id, (client) => mendRow(client, before.id, at, mends));
  const arrival = await keptArrival(before.id, parts);
  const mended = readyOrWhy(arrival, registry);
  const laid = layRow(mended, { at, value: row.value });
  const judged = await judgeLaid(registry, mended, at, laid);
  await keepRows(parts.pool, arrival.id, [
    { at, place: row.place, value: row.value, text: null, recordId: laid.key ?? null, ...judged },
  ]);
  // One row was judged anew: what is known of the others still holds.
  if (before.look !== null && before.lookedRevision === before.revision)
    await noteLook(parts.pool, arrival.id, before.look, arrival.revision);
  response.json(await wholeRow(await keptArrival(arrival.id, parts), at, parts));
};

const applyBody = Joi.object<RowChoice>({
  filter: Joi.object(filterMembers),
  rows: Joi.array().items(Joi.number().integer().min(0).max(2_000_000_000)).max(10_000),
}).or('filter', 'rows');

/** Begins to look at all rows of a file. */
const look: Handle<'/arrivals/:id/looks'> = async (request, response, { pool, registry }) => {
  const id = uuidOf(request.params.id, 'file');
  response.status(202).json({ job: await beginLook(pool, await registry.get(), id, personOf(request)) });
};

/** Begins to apply rows of a file that were looked at. */
const apply: Handle<'/arrivals/:id/applying'> = async (request, response, { pool, registry }) => {
  const choice = parsed(applyBody, request.body);
  const id = uuidOf(request.params.id, 'file');
  const begun = await beginApply(pool, await registry.get(), id, { choice, by: personOf(request) });
  response.status(202).json(begun);
};

const rowsFileQuery = Joi.object<ArrivalFilter & GivenAs>({ ...filterMembers, ...givenAs });

/** The rows that a filter lets through, with what each would do, as a list. */
const rowsFile: Handle<'/arrivals/:id/rows-file'> = async (request, response, parts) => {
  const { as, guard, ...filter } = parsed(rowsFileQuery, request.query);
  const { id, name } = await keptArrival(request.params.id, parts);
  await giveList(
    response,
    parts,
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

/** The rows of files that came: what each would do, one in full, mending it, and applying those that are chosen. */
export const arrivalRowRoutes: readonly Route[] = [
  post('/arrivals/:id/looks', 'files.send', look),
  get('/arrivals/:id/rows', 'files.read', rows, { query: paged }),
  get('/arrivals/:id/rows-file', 'files.read', rowsFile, { query: rowsFileQuery }),
  get('/arrivals/:id/rows/:at', 'files.read', oneRow),
  patch('/arrivals/:id/rows/:at', 'files.send', mend, { body: mendBody }),
  post('/arrivals/:id/applying', 'files.apply', apply, { body: applyBody }),
];
