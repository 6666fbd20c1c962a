import { randomUUID } from 'node:crypto';
import Joi from 'joi';
import { documentSchema, TooManyRows, type JsonObject } from '@vast-knot/core';
import type { EndpointTest, EndpointView, MessagePage, OutFolders } from '@vast-knot/core';
import { workbooksBy } from '../compute/workbooks';
import { refusedAddress } from '../connector/outbound';
import { newSigningSecret } from '../connector/signing';
import { postTo } from '../endpoints/post';
import { EndpointChanged, keepEndpoint, type Endpoint } from '../endpoints/repository';
import { HttpProblem, notFound, parsed } from '../http/problem';
import {
  listMessages,
  readMessageDetail,
  resendMessage,
  sendEdited,
  type MessageFilter,
} from '../messages/log';
import { bytesOf, fileIn } from '../messages/file';
import { readMessage } from '../messages/repository';
import { uuidOf } from './params';
import { get, personOf, post, put, type AppParts, type Handle, type Route } from './route';

const pageSize = 100;
/** What a list of messages may be narrowed by. */
export const messageFilterMembers = {
  state: Joi.valid('waiting', 'delivered', 'given up'),
  run: Joi.string().pattern(/^\d{1,18}$/),
  endpoint: Joi.string().max(80),
  search: Joi.string().allow('').max(200),
  before: Joi.string().pattern(/^\d{1,18}$/),
};
const messageFilter = Joi.object<MessageFilter>(messageFilterMembers);

const list: Handle<'/messages'> = async (request, response, { pool }) => {
  const rows = await listMessages(pool, parsed(messageFilter, request.query), pageSize + 1);
  const shown = rows.slice(0, pageSize);
  const next = rows.length > pageSize ? (shown.at(-1)?.seq ?? null) : null;
  const messages = shown.map(({ seq: _seq, ...message }) => message);
  response.json({ messages, next } satisfies MessagePage);
};

const read: Handle<'/messages/:id'> = async (request, response, { pool }) => {
  const message = await readMessageDetail(pool, uuidOf(request.params.id, 'message'));
  if (!message) throw notFound('such message');
  response.json(message);
};

/** Gives a file that a rule made, whatever became of it. */
const file: Handle<'/messages/:id/file'> = async (request, response, parts) => {
  const message = await readMessage(parts.pool, uuidOf(request.params.id, 'message'));
  const made = message && message.way !== null ? fileIn(message.body) : undefined;
  if (!made) throw notFound('such file');
  const tools = workbooksBy(parts.computer, await parts.registry.get());
  const { name, mediaType, bytes } = await bytesOf(made, tools).catch((thrown: unknown): never => {
    if (!(thrown instanceof TooManyRows)) throw thrown;
    throw new HttpProblem(413, 'Too much work', thrown.message);
  });
  response.attachment(name).type(mediaType).send(Buffer.from(bytes));
};

/** The folders that rules may write files into. */
const folders: Handle<'/folders'> = async (_request, response, parts) => {
  const { folders: named } = await parts.registry.get();
  response.json({ folders: [...named].sort() } satisfies OutFolders);
};

const resend: Handle<'/messages/:id/resend'> = async (request, response, { pool }) => {
  if (!(await resendMessage(pool, uuidOf(request.params.id, 'message')))) throw notFound('such message');
  response.status(202).json({});
};

const editedBody = Joi.object<{ data: JsonObject }>({ data: documentSchema.required() });

/** Sends a message with data that a person edited, as a message of its own. */
const edit: Handle<'/messages/:id/edited'> = async (request, response, { pool }) => {
  const { data } = parsed(editedBody, request.body);
  const id = await sendEdited(pool, uuidOf(request.params.id, 'message'), { data, by: personOf(request) });
  if (id === undefined) throw notFound('such message that could be edited');
  response.status(202).json({ id });
};

/** Messages that rules sent: the delivery log, and sending again by hand. */
export const messageRoutes: readonly Route[] = [
  get('/messages', 'messages.read', list, { query: messageFilter }),
  get('/messages/:id', 'messages.read', read),
  get('/messages/:id/file', 'messages.read', file),
  get('/folders', 'rules.read', folders),
  post('/messages/:id/resend', 'messages.resend', resend),
  post('/messages/:id/edited', 'messages.resend', edit, { body: editedBody }),
];

const where = {
  name: Joi.string().max(80).required(),
  url: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .max(500)
    .required(),
};
interface EndpointSaid {
  readonly name: string;
  readonly url: string;
}
const endpointBody = Joi.object<EndpointSaid & { secret?: string; was?: EndpointSaid }>({
  ...where,
  was: Joi.object<EndpointSaid>(where),
  secret: Joi.string()
    .pattern(/^whsec_[A-Za-z0-9+/=]{24,}$/, 'a signing secret such as whsec_…')
    .max(200),
});

const viewOf = ({ key, name, url, former }: Endpoint, { config }: AppParts): EndpointView => ({
  key,
  name,
  url,
  given: Object.hasOwn(config.endpoints, key),
  formerUntil: former && former.until > new Date() ? former.until.toISOString() : null,
});

const endpoints: Handle<'/endpoints'> = async (_request, response, parts) => {
  const current = await parts.registry.get();
  response.json([...current.endpoints.values()].map((endpoint) => viewOf(endpoint, parts)));
};

async function existing(key: string, { registry }: AppParts): Promise<Endpoint> {
  const endpoint = (await registry.get()).endpoints.get(key);
  if (!endpoint) throw notFound(`address “${key}”`);
  return endpoint;
}

/** What the environment gives is changed there: a restart would undo what was changed here. */
function ofOwn(key: string, { config }: AppParts): void {
  if (!Object.hasOwn(config.endpoints, key)) return;
  const because = `“${key}” is given by the environment of this installation (ENDPOINTS), and is changed there.`;
  throw new HttpProblem(409, 'Given by the environment', because);
}

/** Makes an address, or changes one. Where it gets a secret that was made here, that is told once. */
const changeEndpoint: Handle<'/endpoints/:key'> = async (request, response, parts) => {
  const { key } = request.params;
  if (!/^[a-z][a-z0-9-]{0,39}$/.test(key))
    throw new HttpProblem(422, 'Not valid', 'A key has small letters, digits and hyphens.');
  const { name, url, secret, was } = parsed(endpointBody, request.body);
  ofOwn(key, parts);
  const refused = await refusedAddress(new URL(url), parts.config.allowedOutbound);
  if (refused !== undefined) {
    const because = `It cannot be reached: ${refused}`;
    throw new HttpProblem(422, 'Not valid', because, [{ at: 'url', message: because }]);
  }
  const known = (await parts.registry.get()).endpoints.get(key);
  const made = known || secret !== undefined ? undefined : newSigningSecret();
  if (known && !was)
    throw new HttpProblem(
      428,
      'Say what it was',
      'Say in “was” what its name and address were when you saw them.',
    );
  await keepEndpoint(parts.pool, parts.seal, {
    key,
    name,
    url,
    secret: secret ?? made,
    by: personOf(request),
    was,
  }).catch((thrown: unknown): never => {
    if (!(thrown instanceof EndpointChanged)) throw thrown;
    const detail = `${thrown.by ?? 'Somebody else'} changed this address meanwhile.`;
    throw new HttpProblem(412, 'Changed in between', detail);
  });
  const formerUntil = viewOf(await existing(key, parts), parts).formerUntil;
  response.json({
    key,
    name,
    url,
    given: false,
    formerUntil,
    ...(made !== undefined && { secret: made }),
  } satisfies EndpointView & { secret?: string });
};

/** Gives an address another secret, which is told once. The one before signs for a day as well. */
const rotate: Handle<'/endpoints/:key/rotate'> = async (request, response, parts) => {
  const { key } = request.params;
  const { name, url } = await existing(key, parts);
  ofOwn(key, parts);
  const secret = newSigningSecret();
  await keepEndpoint(parts.pool, parts.seal, { key, name, url, secret, by: personOf(request) });
  response.json({ secret });
};

/** Sends a message that is only a test, and tells what was answered. It is not kept. */
const test: Handle<'/endpoints/:key/test'> = async (request, response, parts) => {
  const endpoint = await existing(request.params.key, parts);
  const [id, at] = [randomUUID(), new Date()];
  const body = JSON.stringify({
    specversion: '1.0',
    id,
    source: '/vast-knot',
    type: 'vast-knot.test',
    time: at.toISOString(),
    datacontenttype: 'application/json',
    data: { says: 'This is only a test.' },
  });
  const answer = await postTo(endpoint, { id, body, at }, parts.outside);
  response.json({ ...answer, milliseconds: Date.now() - at.getTime() } satisfies EndpointTest);
};

/** The outside addresses that messages can be sent to; their secrets stay here. */
export const endpointRoutes: readonly Route[] = [
  get('/endpoints', 'endpoints.read', endpoints),
  put('/endpoints/:key', 'endpoints.change', changeEndpoint, { body: endpointBody }),
  post('/endpoints/:key/rotate', 'endpoints.change', rotate),
  post('/endpoints/:key/test', 'endpoints.change', test),
];
