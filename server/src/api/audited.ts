import type { Request } from 'express';
import { readArrival } from '../arrivals/repository';
import { readSource } from '../fileSources/repository';
import { formViews } from '../forms/types';
import { listImports } from '../carrying/imports';
import { readDraft } from '../drafts/repository';
import { readPeople } from '../people/people';
import { readEnvironment } from '../people/environment';
import { readRoles } from '../people/roles';
import { listRules, readRule } from '../rules/repository';
import { readSamples } from '../samples/repository';
import { readPaused } from '../systems/installation';
import { readTable } from '../tables/repository';
import { readTelling } from '../telling/settings';
import type { AppParts } from './route';

/** How a kind of thing is told of in the audit: what it is known by in an address, and how it stands. */
interface Thing {
  readonly kind: string;
  /** The parameter of the address that names it; absent for what there is one of. */
  readonly param?: string;
  /** Returns it as JSON without anything secret or personal of a record; undefined where it is not there. */
  readonly read?: (parts: AppParts, key: string) => Promise<unknown>;
}

/** What one address of the API does, in words that follow a name: “mara *published a rule*”. */
export interface Audited {
  readonly what: string;
  readonly thing: Thing;
  /** What the person said of it, or what else tells what was done. */
  readonly said?: (request: Request) => string | undefined;
}

const isUuid = (key: string) => /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(key);

/** Rows of a table are told one by one up to so many. */
const mostRows = 2000;

const rule: Thing = {
  kind: 'rule',
  param: 'id',
  async read({ pool }, key) {
    const found = isUuid(key) ? await readRule(pool, key) : undefined;
    if (!found) return undefined;
    const { draft, folder, published, paused, asked } = found;
    return {
      name: draft.name,
      draft,
      folder,
      runs: published?.version ?? null,
      paused: paused?.by,
      asked: asked?.by,
    };
  },
};
const rules: Thing = {
  kind: 'rules',
  async read({ pool }) {
    const all = await listRules(pool);
    return {
      order: all.map(({ draft }) => draft.name).join(', '),
      folders: Object.fromEntries(all.map(({ id, folder }) => [id, folder])),
    };
  },
};
const table: Thing = {
  kind: 'table',
  param: 'name',
  async read({ pool }, key) {
    const found = await readTable(pool, key);
    if (!found) return undefined;
    const { definition, rows, revision } = found;
    // Of a large table its own history says which rows are others.
    const told =
      rows.length > mostRows ? rows.length : Object.fromEntries(rows.map(({ id, cells }) => [id, cells]));
    return { name: definition.name, definition, rows: told, revision };
  },
};
const sample: Thing = {
  kind: 'sample',
  param: 'id',
  /** How it is called may name a person, until it is masked. */
  async read({ pool }, key) {
    const [found] = isUuid(key) ? await readSamples(pool, key) : [];
    return found && { tags: found.tags, masked: found.masked, expected: found.expected !== undefined };
  },
};
const system: Thing = {
  kind: 'system',
  param: 'key',
  async read({ registry }, key) {
    const { catalog, connectors } = await registry.get();
    const found = catalog.systems.find((each) => each.key === key);
    return (
      found && {
        name: found.name,
        recordTypes: found.recordTypes.map(({ name }) => name),
        connected: connectors.has(key),
      }
    );
  },
};
const connection: Thing = {
  kind: 'connection draft',
  param: 'id',
  async read({ pool }, key) {
    const found = isUuid(key) ? await readDraft(pool, key) : undefined;
    return found && { system: found.system, draft: found.draft, secrets: found.secrets };
  },
};
const endpoint: Thing = {
  kind: 'outside address',
  param: 'key',
  async read({ registry }, key) {
    const found = (await registry.get()).endpoints.get(key);
    return found && { name: found.name, url: found.url };
  },
};
const person: Thing = {
  kind: 'person',
  param: 'name',
  async read({ pool }, key) {
    const found = (await readPeople(pool)).find(({ name }) => name === key);
    if (!found) return undefined;
    const { name, fullName, mail, role, secondFactor, stoppedAt } = found;
    return { name, fullName, mail, role, secondFactor, stopped: stoppedAt !== null };
  },
};
const invitation: Thing = { kind: 'invitation', param: 'id' };
const role: Thing = {
  kind: 'role',
  param: 'key',
  async read({ pool }, key) {
    const found = (await readRoles(pool)).find((each) => each.key === key);
    return (
      found && {
        name: found.name,
        says: found.says,
        rights: found.rights.join(', '),
        secondFactor: found.secondFactor,
      }
    );
  },
};
const environment: Thing = { kind: 'environment', read: ({ pool }) => readEnvironment(pool) };
const telling: Thing = { kind: 'telling', read: ({ pool }) => readTelling(pool) };
const everything: Thing = {
  kind: 'everything',
  read: async ({ pool }) => ({ pausedBy: (await readPaused(pool))?.by }),
};
const run: Thing = { kind: 'run', param: 'id' };
const imported: Thing = {
  kind: 'import',
  param: 'id',
  async read({ pool }, key) {
    const [found] = isUuid(key) ? await listImports(pool, key) : [];
    return (
      found && {
        name: found.files.join(', ').slice(0, 500),
        took: Object.fromEntries(found.took.map(({ kind, key: of, name }) => [`${kind} ${of}`, name])),
        undone: found.undone?.by,
      }
    );
  },
};
const failures: Thing = { kind: 'failures' };
const message: Thing = { kind: 'message', param: 'id' };
const reconcile: Thing = { kind: 'reconcile', param: 'id' };
const job: Thing = { kind: 'job', param: 'id' };
/** Values of records are personal, and stand with the runs and in the systems; here stands who touched which. */
const record: Thing = { kind: 'record', param: 'id' };
const inlet: Thing = { kind: 'inlet', param: 'system' };
const arrivals: Thing = { kind: 'files' };
/** What was typed in the place of values is personal, and stands with the file. */
const arrival: Thing = {
  kind: 'file',
  param: 'id',
  async read({ pool }, key) {
    const found = isUuid(key) ? await readArrival(pool, key) : undefined;
    return (
      found && {
        name: found.name,
        becomes: found.recordType,
        layout: found.layout,
        mended: Object.keys(found.mends).join(', '),
      }
    );
  },
};
/** A record type that comes in, with its page. What was answered is personal, and stands with the answers. */
const form: Thing = {
  kind: 'form',
  param: 'recordType',
  async read({ registry }, key) {
    const found = formViews(await registry.get()).find(({ type }) => type.name === key);
    return found && { type: found.type, form: found.form };
  },
};
const forms: Thing = { kind: 'forms', param: 'system' };
const answer: Thing = { kind: 'answer', param: 'id' };
const fileSource: Thing = {
  kind: 'source of files',
  param: 'id',
  async read({ pool }, key) {
    const found = isUuid(key) ? await readSource(pool, key) : undefined;
    if (!found) return undefined;
    const { name, origin, system, recordType, apply, expected, hasSecret } = found;
    return { name, origin, system, recordType, apply, expected, hasSecret };
  },
};
/** Returns what a file that is sent is called. */
const nameAsked = ({ query }: Request) =>
  typeof query['name'] === 'string' ? query['name'].slice(0, 200) : undefined;
/** Returns the name of the record type that a body holds. */
const typeNamed = ({ body }: Request) => {
  const { type } = (typeof body === 'object' && body !== null ? body : {}) as {
    readonly type?: { readonly name?: unknown };
  };
  return typeof type?.name === 'string' ? type.name.slice(0, 120) : undefined;
};
const whichRow = ({ params }: Request) =>
  typeof params['at'] === 'string' ? `row ${params['at']}` : undefined;

/** Returns what a field of the body says, where it is text. */
const saidIn = (name: string) => (request: Request) => {
  const body: unknown = request.body;
  const value =
    typeof body === 'object' && body !== null ? (body as Readonly<Record<string, unknown>>)[name] : undefined;
  return typeof value === 'string' && value !== '' ? value.slice(0, 500) : undefined;
};
/** Returns which fields of a record were written, without their values. */
const fieldsSet = (request: Request) => {
  const body: unknown = request.body;
  const set = typeof body === 'object' && body !== null && 'set' in body ? body.set : undefined;
  return typeof set === 'object' && set !== null ? Object.keys(set).join(', ').slice(0, 500) : undefined;
};
const whichRecord = (request: Request) => {
  const { system: of = '', recordType = '' } = request.params as Readonly<Record<string, string>>;
  return [`${of} ${recordType}`, fieldsSet(request)].filter((each) => each !== undefined).join(': ');
};
const queried = (name: string) => (request: Request) => {
  const value = request.query[name];
  return typeof value === 'string' && value !== '' ? value.slice(0, 500) : undefined;
};
const secretName = (request: Request) => (request.params as Readonly<Record<string, string>>)['name'];

/** Every address that changes something, with what the audit says of it. */
export const audited: ReadonlyMap<string, Audited> = new Map<string, Audited>([
  ['post /connections/drafts', { what: 'began to connect a system', thing: connection }],
  ['put /connections/drafts/:id', { what: 'changed how a system would be connected', thing: connection }],
  ['delete /connections/drafts/:id', { what: 'discarded a draft of a connection', thing: connection }],
  [
    'post /connections/drafts/:id/restore',
    { what: 'brought back a draft of a connection', thing: connection },
  ],
  [
    'put /connections/drafts/:id/secrets/:name',
    { what: 'gave a secret to a draft of a connection', thing: connection, said: secretName },
  ],
  ['post /connections/drafts/:id/start', { what: 'connected a system', thing: connection }],
  [
    'put /systems/:key/secrets/:name',
    { what: 'changed a secret of a system', thing: system, said: secretName },
  ],
  ['delete /systems/:key', { what: 'took a system out', thing: system }],
  ['post /systems/:key/connect', { what: 'had a system connected anew', thing: system }],
  ['post /systems/:key/pause', { what: 'paused a system', thing: system }],
  ['post /systems/:key/go-on', { what: 'let a system go on', thing: system }],
  ['put /endpoints/:key', { what: 'changed an outside address', thing: endpoint }],
  ['post /endpoints/:key/rotate', { what: 'gave an outside address another secret', thing: endpoint }],
  ['put /telling', { what: 'changed who is told', thing: telling }],
  ['post /tables', { what: 'made a table', thing: table }],
  ['put /tables/:name', { what: 'changed the settings of a table', thing: table }],
  ['delete /tables/:name', { what: 'removed a table', thing: table }],
  ['post /tables/:name/rows', { what: 'changed rows of a table', thing: table }],
  ['post /tables/:name/csv', { what: 'changed rows of a table by a file', thing: table }],
  ['post /tables/:name/history/:id/restore', { what: 'brought a table back to how it was', thing: table }],
  ['put /rules/order', { what: 'put rules in another order', thing: rules }],
  ['put /rules/folders', { what: 'put rules into a folder', thing: rules, said: saidIn('folder') }],
  ['post /rules', { what: 'made a rule', thing: rule }],
  ['post /rules/:id/copy', { what: 'copied a rule', thing: rule }],
  ['put /rules/:id/draft', { what: 'edited a rule', thing: rule }],
  ['delete /rules/:id', { what: 'removed a rule', thing: rule }],
  ['post /rules/:id/restore', { what: 'brought back a rule', thing: rule }],
  [
    'post /rules/:id/publish',
    { what: 'published a rule, or asked for it', thing: rule, said: saidIn('note') },
  ],
  ['delete /rules/:id/published', { what: 'stopped a rule', thing: rule, said: queried('why') }],
  ['post /rules/:id/pause', { what: 'paused a rule', thing: rule }],
  ['post /rules/:id/go-on', { what: 'let a rule go on', thing: rule }],
  ['put /rules/:id/drift', { what: 'has a rule looked at by the clock', thing: rule }],
  ['delete /rules/:id/drift', { what: 'has a rule looked at no more by the clock', thing: rule }],
  ['post /rules/:id/requests', { what: 'ran a rule on a record', thing: rule }],
  ['post /rules/:id/undo', { what: 'took back what a rule wrote', thing: rule, said: saidIn('reason') }],
  ['post /imports', { what: 'brought in work from another environment', thing: imported }],
  ['post /imports/:id/undo', { what: 'took back what came from another environment', thing: imported }],
  ['post /samples', { what: 'took a sample', thing: sample }],
  ['patch /samples/:id', { what: 'changed a sample', thing: sample }],
  ['delete /samples/:id', { what: 'removed a sample', thing: sample }],
  ['post /pauses/everything', { what: 'paused everything', thing: everything }],
  ['post /pauses/everything/go-on', { what: 'let everything go on', thing: everything }],
  ['post /runs/:id/retry', { what: 'tried a run again', thing: run }],
  ['post /runs/:id/again', { what: 'ran a payload again', thing: run }],
  ['post /runs/:id/stop', { what: 'stopped a run', thing: run }],
  ['post /runs/:id/undo', { what: 'took back what a run wrote', thing: run, said: saidIn('reason') }],
  ['post /failures/retry', { what: 'tried failures again', thing: failures }],
  ['post /failures/aside', { what: 'put failures aside', thing: failures, said: saidIn('note') }],
  ['post /failures/take-up', { what: 'took failures up again', thing: failures }],
  ['post /reconciles', { what: 'had a rule looked at beside the records that exist', thing: reconcile }],
  ['post /reconciles/:id/writes', { what: 'had a reconcile written', thing: reconcile }],
  ['post /reconciles/:id/undo', { what: 'took back a reconcile', thing: reconcile, said: saidIn('reason') }],
  ['post /messages/:id/resend', { what: 'sent a message again', thing: message }],
  ['post /messages/:id/edited', { what: 'edited a message and sent it', thing: message }],
  ['post /jobs/:id/pause', { what: 'paused a job', thing: job }],
  ['post /jobs/:id/resume', { what: 'let a job go on', thing: job }],
  ['post /jobs/:id/cancel', { what: 'cancelled a job', thing: job }],
  ['post /records/:system/:recordType', { what: 'created a record', thing: record, said: whichRecord }],
  ['patch /records/:system/:recordType/:id', { what: 'changed a record', thing: record, said: whichRecord }],
  ['delete /records/:system/:recordType/:id', { what: 'removed a record', thing: record, said: whichRecord }],
  [
    'post /records/:system/:recordType/:id/rules',
    { what: 'ran the rules on a record', thing: record, said: whichRecord },
  ],
  ['post /inlets/:system/:recordType/rows', { what: 'sent in a file of rows', thing: inlet }],
  ['post /arrivals', { what: 'sent in a file', thing: arrivals, said: nameAsked }],
  ['put /arrivals/:id/layout', { what: 'laid out a file', thing: arrival }],
  ['post /arrivals/:id/looks', { what: 'had a file looked at', thing: arrival }],
  ['patch /arrivals/:id/rows/:at', { what: 'mended a row of a file', thing: arrival, said: whichRow }],
  ['post /arrivals/:id/tidied', { what: 'had the records of a file tidied', thing: arrival }],
  ['post /arrivals/:id/applying', { what: 'had rows of a file applied', thing: arrival }],
  ['post /forms/:system', { what: 'made a record type that comes in', thing: forms, said: typeNamed }],
  ['put /forms/:system/:recordType', { what: 'changed a form', thing: form }],
  ['delete /forms/:system/:recordType', { what: 'took out a record type that comes in', thing: form }],
  ['post /forms/:system/:recordType/answers', { what: 'sent in an answer', thing: form }],
  ['post /forms/:system/:recordType/again', { what: 'tried all refused answers again', thing: form }],
  ['post /answers/:id/again', { what: 'tried an answer again', thing: answer }],
  [
    'post /file-sources',
    { what: 'said where files come from', thing: { kind: 'sources of files' }, said: saidIn('name') },
  ],
  ['put /file-sources/:id', { what: 'changed where files come from', thing: fileSource }],
  ['delete /file-sources/:id', { what: 'took out where files come from', thing: fileSource }],
  ['post /file-sources/:id/look', { what: 'had it looked for files', thing: fileSource }],
  ['post /people/invitations', { what: 'invited somebody', thing: invitation, said: saidIn('name') }],
  ['delete /people/invitations/:id', { what: 'withdrew an invitation', thing: invitation }],
  ['patch /people/:name', { what: 'changed a person', thing: person }],
  ['post /people/:name/sign-out', { what: 'signed somebody out everywhere', thing: person }],
  ['post /people/:name/password', { what: 'made a link for another password', thing: person }],
  ['delete /people/:name/second-factor', { what: 'took away a second factor', thing: person }],
  ['put /roles/:key', { what: 'changed a role', thing: role }],
  ['delete /roles/:key', { what: 'removed a role', thing: role }],
  ['put /environment', { what: 'changed the environment', thing: environment }],
]);

/** What only computes, or tries something without changing what is kept here. */
export const computing: ReadonlySet<string> = new Set([
  'post /connections/drafts/:id/try',
  'post /endpoints/:key/test',
  'post /telling/test',
  'post /bundles',
  'post /imports/plan',
  'post /history',
  'put /presence',
  'delete /presence/:tab',
  'post /rules/:id/preview',
  'post /records/:system/:recordType/:id/rules/preview',
  'post /samples/meet',
  'post /samples/:id/fresh',
  'post /systems/:key/try',
  'post /tables/:name/csv/preview',
  'post /arrivals/:id/head',
  'post /arrivals/:id/layout/text',
]);
