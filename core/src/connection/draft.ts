import Joi from 'joi';
import { fieldTypes, systemSchema, type RecordType, type System } from '../model/system';
import { databaseConnectionSchema, rowWrites, type DatabaseConnection } from './database/databaseConnection';
import { httpConnectionSchema, type HttpConnection } from './httpConnection';

/** The connections that people write. Each kind says how its record types are reached, by their names. */
export type SheetConnection = HttpConnection | DatabaseConnection;

/** Why a part of a draft is as it is; what a person changes has no reason any more. */
export interface DraftReason {
  /** The record type that it concerns; blank for the system as a whole. */
  readonly type: string;
  /** A field at its path, or a part of the connection (`list`, `changing`). */
  readonly about: string;
  readonly because: string;
  readonly sure: 'said' | 'likely' | 'guess';
}

/** A connection that is being written: what is to become a system, in any state between empty and ready. */
export interface ConnectionDraft<C extends SheetConnection = SheetConnection> {
  readonly system: Omit<System, 'recordTypes'>;
  /** Types that were proposed and not taken are left out of `connection.recordTypes`. */
  readonly recordTypes: readonly RecordType[];
  readonly connection: C;
  /** How types are reached as it was proposed, or as it was when they were left out: for when they are taken. */
  readonly proposed: C['recordTypes'];
  readonly reasons: readonly DraftReason[];
  /** What was left out when it was learnt, each with why. */
  readonly leftOut: readonly string[];
  /** Where it comes from, as a sentence. */
  readonly origin: string;
}

export type HttpDraft = ConnectionDraft<HttpConnection>;
export type DatabaseDraft = ConnectionDraft<DatabaseConnection>;

export const isHttpDraft = (draft: ConnectionDraft): draft is HttpDraft => draft.connection.kind === 'http';
export const isDatabaseDraft = (draft: ConnectionDraft): draft is DatabaseDraft =>
  draft.connection.kind === 'postgres';

const text = Joi.string().allow('');

/** A field with a name and a type; what else it says may not be right yet. */
const draftField = Joi.object({
  name: text.max(120).required(),
  label: text.max(120).required(),
  type: Joi.valid(...fieldTypes).required(),
  refersTo: Joi.array().items(text.max(120)),
  options: Joi.array().items(Joi.object({ value: text.required(), label: text.required() })),
  fields: Joi.array().items(Joi.link('#draftField')),
})
  .unknown()
  .id('draftField');

const draftType = Joi.object({
  name: text.max(120).required(),
  label: text.max(200).required(),
  plural: text.max(300).required(),
  idField: text.max(120).required(),
  nameField: text.max(120).required(),
  fields: Joi.array().items(draftField).max(5000).required(),
});

const name = Joi.string().max(120);
const draftPath = Joi.object({ path: text.max(300).required() }).unknown();
const draftTable = Joi.object({
  schema: text.max(120).required(),
  table: text.max(120).required(),
  version: Joi.object({ kind: Joi.string().required() }).unknown().required(),
  writes: Joi.array()
    .items(Joi.valid(...rowWrites))
    .required(),
}).unknown();

/** The parts that everything goes by have their shape; what stands in them may not be right yet. */
const draftHttp = Joi.object({
  kind: Joi.valid('http').required(),
  format: Joi.valid(2).required(),
  baseUrl: text.max(500).required(),
  signIn: Joi.object({ kind: Joi.string().required() }).unknown().required(),
  usual: Joi.object({
    list: Joi.object().required(),
    one: Joi.object().required(),
    version: Joi.object().required(),
  })
    .unknown()
    .required(),
  recordTypes: Joi.object().pattern(name, draftPath).required(),
}).unknown();

const draftDatabase = Joi.object({
  kind: Joi.valid('postgres').required(),
  format: Joi.valid(1).required(),
  baseUrl: text.max(500).required(),
  user: text.max(120).required(),
  protection: Joi.string().required(),
  zone: text.max(60).required(),
  recordTypes: Joi.object().pattern(name, draftTable).required(),
}).unknown();

/** What is held of a connection of each kind: of a draft its shape, and of one that is to start everything. */
const kinds = {
  http: { draft: draftHttp, whole: httpConnectionSchema, proposed: draftPath },
  postgres: { draft: draftDatabase, whole: databaseConnectionSchema, proposed: draftTable },
} as const;

/** A draft may be half done: what is not yet right is told by findings, not refused. Its shape is held, and its size. */
export const connectionDraftSchema = Joi.object<ConnectionDraft>({
  system: Joi.object({
    key: text.max(40).required(),
    tag: text.max(2).required(),
    name: text.max(80).required(),
    hue: Joi.number().integer().min(0).max(359).required(),
  }).required(),
  recordTypes: Joi.array().items(draftType).max(2000).required(),
  connection: Joi.object({ kind: Joi.valid(...Object.keys(kinds)).required() })
    .unknown()
    .when('.kind', { switch: Object.entries(kinds).map(([is, { draft }]) => ({ is, then: draft })) })
    .required(),
  proposed: Joi.object()
    .when('connection.kind', {
      switch: Object.entries(kinds).map(([is, { proposed }]) => ({
        is,
        then: Joi.object().pattern(name, proposed),
      })),
    })
    .required(),
  reasons: Joi.array()
    .items(
      Joi.object({
        type: text.max(300).required(),
        about: text.max(500).required(),
        because: text.max(1000).required(),
        sure: Joi.valid('said', 'likely', 'guess').required(),
      }),
    )
    .max(100_000)
    .required(),
  leftOut: Joi.array().items(text.max(1000)).max(10_000).required(),
  origin: text.max(3000).required(),
});

/** What nothing is known of yet. */
export const emptyConnection: HttpConnection = {
  kind: 'http',
  format: 2,
  baseUrl: '',
  signIn: { kind: 'bearer' },
  usual: {
    list: { path: '{path}', items: '', paging: { kind: 'none' }, filter: { kind: 'none' } },
    one: { kind: 'address', path: '{path}/{id}' },
    version: { kind: 'none' },
    listening: { compared: { everySeconds: 3600 } },
  },
  recordTypes: {},
};

/** The system that a draft describes: with those of its types that are to be reached. */
export function systemOfDraft({ system, recordTypes, connection }: ConnectionDraft): System {
  return {
    ...system,
    recordTypes: recordTypes.filter(({ name }) => Object.hasOwn(connection.recordTypes, name)),
  };
}

/** What is not right yet in a draft, with the place that it concerns: `system/tag`, `connection/usual/list/items`. */
export interface DraftFinding {
  readonly at: string;
  readonly message: string;
}

/** Returns what a part of a system is called in a sentence of a finding. */
const systemWords: Readonly<Record<string, string>> = {
  key: 'The key of the system is to be small letters, digits and dashes.',
  tag: 'The tag of the system is to be two capital letters.',
  name: 'The system has no name yet.',
};

/** Returns what is not right yet in a draft; `taken` are the keys of other systems. */
export function draftFindings(
  draft: ConnectionDraft,
  taken: readonly Pick<System, 'key' | 'tag' | 'name'>[],
): readonly DraftFinding[] {
  const found: DraftFinding[] = [];
  const definition = systemOfDraft(draft);
  const system = systemSchema.validate(definition, { abortEarly: false, convert: false });
  for (const { path, message } of system.error?.details ?? []) {
    const [first] = path;
    const words = path.length === 1 ? systemWords[String(first)] : undefined;
    found.push({ at: `system/${path.join('/')}`, message: words ?? `${message}.` });
  }
  for (const other of taken) {
    if (other.key === draft.system.key)
      found.push({ at: 'system/key', message: `${other.name} has this key already.` });
    if (other.tag === draft.system.tag)
      found.push({ at: 'system/tag', message: `${other.name} has this tag already.` });
  }
  const whole: Joi.ObjectSchema<SheetConnection> = kinds[draft.connection.kind].whole;
  const connection = whole.validate(draft.connection, { abortEarly: false, convert: false });
  for (const { path, message } of connection.error?.details ?? [])
    found.push({ at: `connection/${path.join('/')}`, message: `${message}.` });
  if (definition.recordTypes.length === 0)
    found.push({ at: 'connection/recordTypes', message: 'No record type is chosen yet.' });
  for (const type of definition.recordTypes) {
    const names = type.fields.map(({ name }) => name);
    for (const [part, field] of [
      ['idField', type.idField],
      ['nameField', type.nameField],
    ] as const)
      if (!names.includes(field))
        found.push({ at: `types/${type.name}/${part}`, message: `${type.label} has no field “${field}”.` });
    for (const field of type.fields) {
      const nowhere =
        field.refersTo?.filter((name) => !definition.recordTypes.some((each) => each.name === name)) ?? [];
      if (nowhere.length > 0)
        found.push({
          at: `types/${type.name}/${field.name}`,
          message: `${type.label}: ${field.label} points to ${nowhere.join(', ')}, which is not chosen.`,
        });
    }
  }
  return found;
}
