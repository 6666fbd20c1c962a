import Joi from 'joi';
import type { JsonObject } from '../model/json';
import { changingSchema, type Changing } from './changing';
import { filterSchema, type Filter } from './filter';
import { listeningSchema, type Listening } from './listening';
import { pagingSchema, type Paging } from './paging';
import { headerName, methodSchema, parameterName, pathTemplate, pointerSchema } from './style';
import type { WireRequest } from './wire';

/** How the records of a type are listed. Places in answers are JSON Pointers (RFC 6901). */
export interface Listing {
  /** `{path}` stands for the path of the record type. */
  readonly path: string;
  /** Parameters that every request for the list carries. */
  readonly parameters?: Readonly<Record<string, string>>;
  /** Where the records stand; at the root, where blank. */
  readonly items: string;
  /** Where, in each of them, the record itself stands: in an envelope. */
  readonly record?: string;
  /** Where it is said how many there are in all. */
  readonly total?: string;
  /** The header that says it. */
  readonly totalHeader?: string;
  readonly paging: Paging;
  readonly filter: Filter;
  /** The parameter of the system's own search. */
  readonly search?: string;
  /** Filtered by the field that holds the id, it gives every record that can be read alone. */
  readonly manyById?: boolean;
}

/** How one record is read. */
export type ReadingOne =
  | { readonly kind: 'address'; readonly path: string; readonly record?: string }
  /** It is found in the list. */
  | { readonly kind: 'list' };

/** How it is known that somebody else changed a record in between. */
export type Versioning =
  /** A field counts, or holds the time of the last change; `ifMatch` says how it is sent as `If-Match`, with `{version}`. */
  | { readonly kind: 'field'; readonly field: string; readonly ifMatch?: string }
  /** The `ETag` of the answer that holds one record (RFC 9110, 8.8.3), sent back as `If-Match`. */
  | { readonly kind: 'etag' }
  /** There is no such thing: the record is read before it is written. Two who write in the same moment can meet. */
  | { readonly kind: 'none' };

/** How records are created. */
export interface Creating {
  readonly method: 'POST' | 'PUT';
  readonly path: string;
  /** Where in what is sent the record stands. */
  readonly envelope?: string;
  /** Where in the answer the record stands; `location` where the answer only says its address; `id` where it only has the id, with its place. */
  readonly answer?: string;
  /** Where in the answer the id alone stands; the record is read then. */
  readonly id?: string;
  /** The id is the last part of the address in the header `Location` (RFC 9110, 10.2.2). */
  readonly location?: boolean;
  /** The header that carries the key by which a repeated request is known. */
  readonly keyHeader?: string;
  /** Fields that together name a record: before a creation is repeated, it is looked for by them. */
  readonly naturalKey?: readonly string[];
}

/** How records are removed, or retired. */
export interface Removing {
  readonly method: WireRequest['method'];
  readonly path: string;
  /** What is sent, for a system in which records are retired by a change. */
  readonly body?: JsonObject;
}

/** How records of a type are read and written. */
export interface RecordTypeStyle {
  readonly list: Listing;
  readonly one: ReadingOne;
  readonly version: Versioning;
  /** Without it, nothing can be changed. */
  readonly changing?: Changing;
  readonly creating?: Creating;
  readonly removing?: Removing;
  readonly listening?: Listening;
}

const listSchema = Joi.object<Listing>({
  path: pathTemplate.default('{path}'),
  parameters: Joi.object().pattern(Joi.string().max(120), Joi.string().allow('').max(500)),
  items: pointerSchema.required(),
  record: pointerSchema,
  total: pointerSchema,
  totalHeader: headerName,
  paging: pagingSchema.required(),
  filter: filterSchema.required(),
  search: parameterName,
  manyById: Joi.boolean(),
});

const oneSchema = Joi.alternatives<ReadingOne>(
  Joi.object({
    kind: Joi.valid('address').required(),
    path: pathTemplate.default('{path}/{id}'),
    record: pointerSchema,
  }),
  Joi.object({ kind: Joi.valid('list').required() }),
);

const versionSchema = Joi.alternatives<Versioning>(
  Joi.object({
    kind: Joi.valid('field').required(),
    field: Joi.string().max(300).required(),
    ifMatch: Joi.string().max(100),
  }),
  Joi.object({ kind: Joi.valid('etag').required() }),
  Joi.object({ kind: Joi.valid('none').required() }),
);

const creatingSchema = Joi.object<Creating>({
  method: Joi.valid('POST', 'PUT').required(),
  path: pathTemplate.required(),
  envelope: pointerSchema,
  answer: pointerSchema,
  id: pointerSchema,
  location: Joi.boolean(),
  keyHeader: headerName,
  naturalKey: Joi.array().items(Joi.string().max(300)).min(1),
});

const removingSchema = Joi.object<Removing>({
  method: methodSchema.required(),
  path: pathTemplate.required(),
  body: Joi.object(),
});

/** The parts of a style, each of which a record type may have of its own. */
const parts = {
  list: listSchema,
  one: oneSchema,
  version: versionSchema,
  changing: changingSchema,
  creating: creatingSchema,
  removing: removingSchema,
  listening: listeningSchema,
};

export const recordTypeStyleSchema = Joi.object<RecordTypeStyle>({
  ...parts,
  list: listSchema.required(),
  one: oneSchema.required(),
  version: versionSchema.required(),
});

/** What a record type has of its own; `null` is what all others have and it has not. */
export type OwnStyle = {
  readonly [Part in keyof RecordTypeStyle]?: RecordTypeStyle[Part] | null;
} & {
  readonly path: string;
};

export const ownStyleSchema = Joi.object<OwnStyle>({
  path: Joi.string()
    .max(300)
    .pattern(/^\/[^\s#\\?]*$/, 'a path that begins with /')
    .required(),
  ...parts,
  changing: changingSchema.allow(null),
  creating: creatingSchema.allow(null),
  removing: removingSchema.allow(null),
  listening: listeningSchema.allow(null),
});
