import Joi from 'joi';
import {
  connectionDraftSchema,
  protections,
  type DraftBeginning,
  type DraftTry,
  type DraftView,
} from '@vast-knot/core';
import { newSigningSecret } from '../connector/signing';
import { beginDraft } from '../drafts/begun';
import {
  discardDraft,
  keepDraftSecret,
  listDrafts,
  openDraftSecrets,
  readDraft,
  restoreDraft,
  saveConnectionDraft,
} from '../drafts/repository';
import { findingsOfDraft, startDraft } from '../drafts/start';
import { tryDraft } from '../drafts/tryDraft';
import { jsonBody } from '../http/jsonBody';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { uuidOf } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

/** A document that is pasted or given as a file may be so long. */
const longestDocument = '22mb';
/** A draft with thousands of fields and their reasons. */
const longestDraft = '16mb';
const list: Handle<'/connections/drafts'> = async (_request, response, { pool }) => {
  response.json(await listDrafts(pool));
};

async function existing(id: string, { pool }: AppParts): Promise<DraftView> {
  const draft = await readDraft(pool, uuidOf(id, 'draft'));
  if (!draft) throw notFound('such draft');
  return draft;
}

const read: Handle<'/connections/drafts/:id'> = async (request, response, parts) => {
  const draft = await existing(request.params.id, parts);
  response.set('ETag', `"${draft.revision}"`).json(draft);
};

const address = Joi.string().max(2000);
const text = Joi.string().max(24 * 1024 * 1024);
const beginBody: Joi.Schema<DraftBeginning> = Joi.alternatives<DraftBeginning>().conditional('.from', {
  switch: [
    { is: 'hand', then: Joi.object({ from: Joi.valid('hand'), name: Joi.string().max(80).required() }) },
    {
      is: 'system',
      then: Joi.object({
        from: Joi.valid('system'),
        system: Joi.string().max(80).required(),
        refresh: Joi.boolean(),
      }),
    },
    { is: 'bundle', then: Joi.object({ from: Joi.valid('bundle'), text: text.required() }) },
    {
      is: 'database',
      then: Joi.object({
        from: Joi.valid('database'),
        address: address.required(),
        user: Joi.string().max(63).required(),
        secret: Joi.string().max(4000).allow('').required(),
        protection: Joi.valid(...protections).required(),
      }),
    },
    {
      is: Joi.valid('openapi', 'schema'),
      then: Joi.object({ from: Joi.string(), text, address }).xor('text', 'address'),
    },
    {
      is: 'records',
      then: Joi.object({
        from: Joi.valid('records'),
        text,
        address,
        name: Joi.string().max(120),
        header: Joi.string().max(100).allow(''),
        secret: Joi.string().max(4000).allow(''),
      }).xor('text', 'address'),
    },
  ],
  otherwise: Joi.object({
    from: Joi.valid('hand', 'system', 'bundle', 'database', 'openapi', 'schema', 'records').required(),
  }),
});

const begin: Handle<'/connections/drafts'> = async (request, response, parts) => {
  const beginning = parsed(beginBody, request.body);
  const id = await beginDraft(beginning, personOf(request), parts);
  response.status(201).json(await existing(id, parts));
};

const moved = () =>
  new HttpProblem(
    412,
    'Changed in between',
    'Somebody else changed this connection in between; load it again.',
  );

const saveBody = Joi.object({ draft: connectionDraftSchema.required() }).required();

const save: Handle<'/connections/drafts/:id'> = async (request, response, parts) => {
  const { draft } = parsed(saveBody, request.body) as Pick<DraftView, 'draft'>;
  const revision = requiredRevision(request.get('If-Match'));
  const { id } = await existing(request.params.id, parts);
  if (!(await saveConnectionDraft(parts.pool, { id, revision, draft, by: personOf(request) }))) throw moved();
  response.json(await existing(id, parts));
};

const discard: Handle<'/connections/drafts/:id'> = async (request, response, { pool }) => {
  if (!(await discardDraft(pool, uuidOf(request.params.id, 'draft')))) throw notFound('such draft');
  response.status(204).end();
};

/** Puts back what was discarded. */
const restore: Handle<'/connections/drafts/:id/restore'> = async (request, response, parts) => {
  const id = uuidOf(request.params.id, 'draft');
  if (!(await restoreDraft(parts.pool, id))) throw notFound('such draft');
  response.json(await existing(id, parts));
};

const secretBody = Joi.object<{ value?: string; generate?: true }>({
  value: Joi.string().max(4000),
  generate: Joi.valid(true),
}).xor('value', 'generate');

/** Keeps a secret of a draft. One that is made here is told once, to be given to the other side. */
const secret: Handle<'/connections/drafts/:id/secrets/:name'> = async (request, response, parts) => {
  const { name } = request.params;
  if (name !== 'token' && name !== 'webhook') throw notFound(`secret ${name}`);
  const { value } = parsed(secretBody, request.body);
  const { id } = await existing(request.params.id, parts);
  const made = value ?? newSigningSecret();
  await keepDraftSecret(parts.pool, parts.seal, { id, name, value: made });
  response.json(value === undefined ? { value: made } : {});
};

const tryBody = Joi.object<{ draft: DraftView['draft']; asked: DraftTry }>({
  draft: connectionDraftSchema.required(),
  asked: Joi.object({
    what: Joi.valid('list', 'one', 'find', 'since', 'write back', 'note', 'note no more').required(),
    type: Joi.string().max(300).required(),
    cursor: Joi.string().max(4000),
    id: Joi.string().max(400),
    field: Joi.string().max(400),
    value: Joi.any(),
    mark: Joi.number(),
  }).required(),
});

/** Tries a statement of a draft as it is typed, saved or not. */
const attempt: Handle<'/connections/drafts/:id/try'> = async (request, response, parts) => {
  const { draft, asked } = parsed(tryBody, request.body);
  const view = await existing(request.params.id, parts);
  const secrets = await openDraftSecrets(parts.pool, parts.seal, view);
  response.json(
    await tryDraft(draft, asked, { ...parts.outside, token: secrets['token'] ?? '', now: new Date() }),
  );
};

const start: Handle<'/connections/drafts/:id/start'> = async (request, response, parts) => {
  const revision = requiredRevision(request.get('If-Match'));
  const draft = await existing(request.params.id, parts);
  if (draft.revision !== revision) throw moved();
  const found = findingsOfDraft(draft, (await parts.registry.get()).catalog.systems);
  const [first] = found;
  if (first) throw new HttpProblem(422, 'Not ready', first.message, found);
  const started = await startDraft(parts.pool, parts.seal, draft);
  if (started.is === 'moved') throw moved();
  if (started.is === 'taken') {
    const because = `Another system has the key “${draft.draft.system.key}” by now.`;
    throw new HttpProblem(409, 'Not started', because);
  }
  response.status(201).json({ key: started.key });
};

/** Connections that are being written: begun in one of several ways, tried as they are written, and started. */
export const connectionRoutes: readonly Route[] = [
  get('/connections/drafts', 'systems.read', list),
  post('/connections/drafts', 'systems.change', begin, { body: beginBody, reads: jsonBody(longestDocument) }),
  get('/connections/drafts/:id', 'systems.read', read),
  put('/connections/drafts/:id', 'systems.change', save, {
    body: saveBody,
    revision: true,
    reads: jsonBody(longestDraft),
  }),
  remove('/connections/drafts/:id', 'systems.change', discard),
  post('/connections/drafts/:id/restore', 'systems.change', restore),
  put('/connections/drafts/:id/secrets/:name', 'systems.change', secret, { body: secretBody }),
  post('/connections/drafts/:id/try', 'systems.change', attempt, {
    body: tryBody,
    reads: jsonBody(longestDraft),
  }),
  post('/connections/drafts/:id/start', 'systems.change', start, { revision: true }),
];
