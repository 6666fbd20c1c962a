import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  fileSourceSchema,
  isZone,
  type FileSource,
  type FileSourceChange,
  type FileSourceList,
} from '@vast-knot/core';
import { inletType } from '../arrivals/receive';
import { refusedAddress } from '../connector/outbound';
import { queueLook } from '../fileSources/look';
import { addSource, changeSource, listSources, readSource, removeSource } from '../fileSources/repository';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { uuidOf } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

const list: Handle<'/file-sources'> = async (_request, response, { pool, config }) => {
  response.json({
    sources: await listSources(pool),
    folders: Object.keys(config.folders),
  } satisfies FileSourceList);
};

async function existing(id: string, { pool }: AppParts) {
  const found = await readSource(pool, uuidOf(id, 'source of files'));
  if (!found) throw notFound('such source of files');
  return found;
}

const changeBody = (fileSourceSchema as Joi.ObjectSchema<FileSourceChange>).keys({
  secret: Joi.string().max(4000).allow(''),
});

/** Returns a source as it was sent. Throws a 422 where something that it names is not there. */
async function given(body: unknown, parts: AppParts): Promise<{ definition: FileSource; secret?: string }> {
  const { secret, ...definition } = parsed(changeBody, body);
  const { origin, expected, system, recordType } = definition;
  const refuse = (at: string, because: string) => {
    throw new HttpProblem(422, 'Not valid', because, [{ at, message: because }]);
  };
  if (!inletType(await parts.registry.get(), { system, recordType }))
    refuse('recordType', `Records of “${recordType}” do not come in by files.`);
  for (const schedule of [expected, origin.kind === 'address' ? origin.schedule : null])
    if (schedule && !isZone(schedule.zone)) refuse('zone', `There is no time zone “${schedule.zone}”.`);
  if (origin.kind === 'folder' && !Object.hasOwn(parts.config.folders, origin.folder))
    refuse('origin/folder', `The settings of the server name no folder “${origin.folder}”.`);
  if (origin.kind === 'address') {
    const refused = await refusedAddress(new URL(origin.url), parts.config.allowedOutbound);
    if (refused !== undefined) refuse('origin/url', `The address cannot be reached: ${refused}`);
  }
  return { definition, ...(secret !== undefined && { secret }) };
}

const add: Handle<'/file-sources'> = async (request, response, parts) => {
  const { definition, secret } = await given(request.body, parts);
  const id = uuid();
  await addSource(parts.pool, parts.seal, { id, definition, secret, by: personOf(request) });
  if (definition.origin.kind === 'folder') await queueLook(parts.pool, id);
  response.status(201).json(await existing(id, parts));
};

const change: Handle<'/file-sources/:id'> = async (request, response, parts) => {
  const { definition, secret } = await given(request.body, parts);
  const revision = requiredRevision(request.get('If-Match'));
  const { id } = await existing(request.params.id, parts);
  const kept = { id, definition, secret, by: personOf(request) };
  if (!(await changeSource(parts.pool, parts.seal, kept, revision)))
    throw new HttpProblem(412, 'Changed in between', 'Somebody else changed this in between; load it again.');
  response.json(await existing(id, parts));
};

const takeOut: Handle<'/file-sources/:id'> = async (request, response, { pool }) => {
  if (!(await removeSource(pool, uuidOf(request.params.id, 'source of files'))))
    throw notFound('such source of files');
  response.status(204).end();
};

const lookNow: Handle<'/file-sources/:id/look'> = async (request, response, parts) => {
  const { id } = await existing(request.params.id, parts);
  await queueLook(parts.pool, id);
  response.status(202).json(await existing(id, parts));
};

/** Where files come from by themselves. */
export const fileSourceRoutes: readonly Route[] = [
  get('/file-sources', 'files.read', list),
  post('/file-sources', 'systems.change', add, { body: changeBody }),
  put('/file-sources/:id', 'systems.change', change, { body: changeBody, revision: true }),
  remove('/file-sources/:id', 'systems.change', takeOut),
  post('/file-sources/:id/look', 'files.send', lookNow),
];
