import type { Request } from 'express';
import Joi from 'joi';
import { fileFormat, tidiedFile, unpacked } from '@vast-knot/core';
import { beginByItself } from '../arrivals/begin';
import { receive } from '../arrivals/receive';
import { listArrivals, partsOf } from '../arrivals/repository';
import { resultsOf } from '../arrivals/result';
import { summariesOf, viewOf } from '../arrivals/views';
import { giveParts } from '../http/giveList';
import { HttpProblem, parsed } from '../http/problem';
import { checkRight } from '../people/session';
import { writingTools } from './giving';
import { keptArrival } from './params';
import { get, personOf, post, type AppParts, type Handle, type Route } from './route';

/** Files that are listed at a time. */
const listSize = 100;

const sendQuery = Joi.object<{ name: string; system?: string; recordType?: string }>({
  name: Joi.string().trim().min(1).max(200).default('file'),
  system: Joi.string().max(40),
  recordType: Joi.string().max(120),
}).and('system', 'recordType');

/** Takes a file in, whatever it holds. */
const send: Handle<'/arrivals'> = async (request, response, parts) => {
  const { name, system, recordType } = parsed(sendQuery, request.query);
  const wanted = system !== undefined && recordType !== undefined ? { system, recordType } : undefined;
  const arrival = await received(request, parts, name, wanted);
  response.status(201).json(await viewOf(parts.pool, arrival));
};

const rowsQuery = Joi.object<{ name: string; apply: 'yes' | 'no' }>({
  name: Joi.string().trim().min(1).max(200).default('file.csv'),
  apply: Joi.valid('yes', 'no').default('yes'),
});

/** Takes a file in for one record type, from a program; what can be applied is, unless it is asked not to be. */
const sendRows: Handle<'/inlets/:system/:recordType/rows'> = async (request, response, parts) => {
  const { name, apply } = parsed(rowsQuery, request.query);
  if (apply === 'yes') checkRight(request, 'files.apply');
  const { id } = await received(request, parts, name, request.params);
  if (apply === 'yes') await beginByItself(parts.pool, await parts.registry.get(), id, personOf(request));
  response.status(202).json(await viewOf(parts.pool, await keptArrival(id, parts)));
};

async function received(
  request: Request,
  parts: AppParts,
  name: string,
  wanted: { readonly system: string; readonly recordType: string } | undefined,
) {
  return receive(parts, await parts.registry.get(), {
    name,
    body: request as AsyncIterable<Buffer>,
    way: request.person?.token === undefined ? 'page' : 'address',
    by: personOf(request),
    wanted,
  });
}

const listQuery = Joi.object<{ before?: string }>({ before: Joi.string().guid() });

const list: Handle<'/arrivals'> = async (request, response, { pool }) => {
  const { before = null } = parsed(listQuery, request.query);
  response.json(await summariesOf(pool, await listArrivals(pool, { before, limit: listSize })));
};

const read: Handle<'/arrivals/:id'> = async (request, response, parts) => {
  response.json(await viewOf(parts.pool, await keptArrival(request.params.id, parts)));
};

/** The file as it came. */
const download: Handle<'/arrivals/:id/file'> = async (request, response, parts) => {
  const { id, name } = await keptArrival(request.params.id, parts);
  response.type('application/octet-stream').attachment(name);
  await giveParts(response, partsOf(parts.pool, id));
};

/** What became of each row, in a file like the one that came. */
const result: Handle<'/arrivals/:id/result'> = async (request, response, parts) => {
  const { id, name, layout } = await keptArrival(request.params.id, parts);
  if (!layout) throw new HttpProblem(422, 'Not ready', 'Nobody said yet what its records become.');
  const registry = await parts.registry.get();
  const plain = name.replace(/\.(gz|zip)$/i, '');
  response.type('application/octet-stream').attachment(`result-${plain}`);
  const written = fileFormat(layout.file).result(
    resultsOf(parts.pool, id, registry.catalog),
    layout.file,
    writingTools(parts, registry),
  );
  await giveParts(response, written);
};

const tidiedQuery = Joi.object<{ to: 'file' | 'arrival' }>({
  to: Joi.valid('file', 'arrival').default('file'),
});

/** The file with its records tidied as its layout says: to be taken away, or as an arrival of its own. */
const tidied: Handle<'/arrivals/:id/tidied'> = async (request, response, parts) => {
  const { to } = parsed(tidiedQuery, request.query);
  const kept = await keptArrival(request.params.id, parts);
  const { layout, name } = kept;
  if (layout?.file.kind !== 'tagged' || !layout.tidy?.length)
    throw new HttpProblem(422, 'Not ready', 'It is not said yet what is tidied in its records.');
  const file = `tidied-${name.replace(/\.(gz|zip)$/i, '')}`;
  const written = tidiedFile(unpacked(partsOf(parts.pool, kept.id)), layout, kept.cameAt);
  if (to === 'file') {
    response.type('application/octet-stream').attachment(file);
    return giveParts(response, written);
  }
  const { system, recordType } = kept;
  const wanted = system !== null && recordType !== null ? { system, recordType } : undefined;
  const taken = await receive(parts, await parts.registry.get(), {
    name: file,
    body: written,
    way: 'page',
    by: personOf(request),
    wanted,
  });
  response.status(201).json(await viewOf(parts.pool, taken));
};

/** Files that came in, as they came and with what became of them. */
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
  post('/arrivals/:id/tidied', 'files.send', tidied, { query: tidiedQuery }),
];
