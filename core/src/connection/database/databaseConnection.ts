import Joi from 'joi';
import { isZone } from '../../model/clock';
import { limitsSchema, type Limits } from '../httpConnection';
import type { Compared } from '../listening';

/** How it is known that somebody else changed a row in between. */
export type RowVersion =
  /** The transaction that wrote the row last, which the database keeps for every row of a table. */
  | { readonly kind: 'row' }
  /** A column counts, or holds the time of the last change; `counted`: whoever writes counts it up. */
  | { readonly kind: 'field'; readonly field: string; readonly counted?: boolean }
  /** Neither: what is written is held against what stood there, in the same statement. Views have no more. */
  | { readonly kind: 'none' };

/** Rows are asked for by a column that holds the time, or the number, of their last change. */
export interface RowsAsked {
  readonly field: string;
  /** So much earlier than the last time is asked, for rows that are stamped before they can be read. A number is not moved back. */
  readonly overlapSeconds: number;
  readonly everySeconds: number;
}

/** How changes of rows are learnt. */
export interface RowListening {
  readonly asked?: RowsAsked;
  readonly compared?: Compared;
  /** A trigger notes each change in the database, and tells at once. */
  readonly noted?: boolean;
}

/** What may be done with rows beside reading them. */
export const rowWrites = ['create', 'change', 'remove'] as const;
export type RowWrite = (typeof rowWrites)[number];

/** How the rows of one table or view are read and written. Columns are called as the fields of the record type. */
export interface TableStyle {
  readonly schema: string;
  readonly table: string;
  readonly version: RowVersion;
  readonly writes: readonly RowWrite[];
  /** Columns that together name a row: before a creation is repeated, it is looked for by them. */
  readonly naturalKey?: readonly string[];
  readonly listening?: RowListening;
}

/** How far the line to a database is protected. */
export const protections = ['verified', 'encrypted', 'none'] as const;

/** How a PostgreSQL database is reached, as data. */
export interface DatabaseConnection {
  readonly kind: 'postgres';
  /** The version of this format. */
  readonly format: 1;
  /** `postgres://host:port/database` */
  readonly baseUrl: string;
  readonly user: string;
  /** `verified`: encrypted, with a certificate that is checked; `encrypted`: with any certificate; `none`: open. */
  readonly protection: (typeof protections)[number];
  /** The zone of times that name none, by its IANA name. */
  readonly zone: string;
  readonly recordTypes: Readonly<Record<string, TableStyle>>;
  readonly limits?: Limits;
}

/** A name in PostgreSQL is at most 63 bytes long. */
const name = Joi.string().max(63);
const every = Joi.number().integer().min(5).max(604_800);

export const tableStyleSchema: Joi.ObjectSchema<TableStyle> = Joi.object<TableStyle>({
  schema: name.required(),
  table: name.required(),
  version: Joi.alternatives<RowVersion>(
    Joi.object({ kind: Joi.valid('row').required() }),
    Joi.object({
      kind: Joi.valid('field').required(),
      field: name.required(),
      counted: Joi.boolean(),
    }),
    Joi.object({ kind: Joi.valid('none').required() }),
  ).required(),
  writes: Joi.array()
    .items(Joi.valid(...rowWrites))
    .unique()
    .required(),
  naturalKey: Joi.array().items(name).min(1),
  listening: Joi.object<RowListening>({
    asked: Joi.object<RowsAsked>({
      field: name.required(),
      overlapSeconds: Joi.number().integer().min(0).max(86_400).default(60),
      everySeconds: every.default(60),
    }),
    compared: Joi.object<Compared>({ everySeconds: every.default(3600) }),
    noted: Joi.boolean(),
  }),
});

const address = Joi.string()
  .max(500)
  .custom((text: string, helpers) =>
    databaseAddress(text)
      ? text
      : helpers.message({
          custom: `“${text}” is no address of a database: it is to be postgres://host:port/database.`,
        }),
  );

export const databaseConnectionSchema: Joi.ObjectSchema<DatabaseConnection> = Joi.object<DatabaseConnection>({
  kind: Joi.valid('postgres').required(),
  format: Joi.valid(1).required(),
  baseUrl: address.required(),
  user: name.required(),
  protection: Joi.valid(...protections).required(),
  zone: Joi.string()
    .max(60)
    .custom((zone: string, helpers) =>
      isZone(zone) ? zone : helpers.message({ custom: `There is no time zone “${zone}”.` }),
    )
    .default('UTC'),
  recordTypes: Joi.object().pattern(Joi.string().max(120), tableStyleSchema).required(),
  limits: limitsSchema,
});

/** What is known before anything is learnt. */
export const emptyDatabase: DatabaseConnection = {
  kind: 'postgres',
  format: 1,
  baseUrl: '',
  user: '',
  protection: 'verified',
  zone: 'UTC',
  recordTypes: {},
};

/** Where a database is. */
export interface DatabaseAddress {
  readonly host: string;
  readonly port: number;
  readonly database: string;
}

/** Returns what an address says; undefined for what is none. Neither a user nor a password belongs into it. */
export function databaseAddress(text: string): DatabaseAddress | undefined {
  if (!/^postgres(ql)?:\/\//.test(text) || !URL.canParse(text)) return undefined;
  const { hostname, port, pathname, username, password, search, hash } = new URL(text);
  if (hostname === '' || username !== '' || password !== '' || search !== '' || hash !== '') return undefined;
  const database = /^\/([^/]+)$/.exec(pathname)?.[1];
  if (database === undefined) return undefined;
  try {
    return {
      host: hostname.replace(/^\[|\]$/g, ''),
      port: port === '' ? 5432 : Number(port),
      database: decodeURIComponent(database),
    };
  } catch {
    return undefined;
  }
}
