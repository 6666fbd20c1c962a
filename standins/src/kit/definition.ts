/** A record type of a stand-in: a JSON Schema of its fields, and what is special about some of them. */
export interface RecordDefinition {
  /** Name in event types: `company`. */
  readonly type: string;
  /** Path segment: `companies`. */
  readonly path: string;
  readonly title: string;
  /** Ids are this prefix and a running number. */
  readonly idPrefix: string;
  readonly firstId: number;
  readonly nameField: string;
  readonly schema: JsonSchema;
  /** Fields by which lists are often filtered; each gets an index. */
  readonly indexed: readonly string[];
}

export interface JsonSchema {
  readonly type?: string | readonly string[];
  readonly title?: string;
  readonly description?: string;
  readonly properties?: Readonly<Record<string, JsonSchema>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: boolean;
  readonly enum?: readonly (string | null)[];
  readonly maxLength?: number;
  readonly maxItems?: number;
  readonly minLength?: number;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly format?: string;
  readonly pattern?: string;
  readonly items?: JsonSchema;
  readonly readOnly?: boolean;
}

export type Document = Record<string, unknown>;

/** A record as it is stored, before it is dressed for an answer. */
export interface StoredDocument {
  readonly id: string;
  readonly version: number;
  readonly doc: Document;
  readonly updatedAt: Date;
}

/** How one application's API is spoken: paths, names of parameters, shapes of bodies, way of sending events. */
export interface Dialect {
  readonly name: string;
  readonly title: string;
  readonly base: string;
  readonly versionField: string;
  readonly updatedField: string;
  /** The header that carries the key of a client and the value that is accepted for a token. */
  readonly auth: {
    readonly header: string;
    readonly accepts: (value: string, token: string) => boolean;
    readonly scheme: object;
  };
  readonly list: {
    readonly limit: string;
    readonly cursor: string;
    readonly search: string;
    /** Filters in a query: field to accepted values, or a sentence when they cannot be read. */
    readonly filters: (
      query: Readonly<Record<string, unknown>>,
    ) => ReadonlyMap<string, readonly string[]> | string;
    readonly filterDoc: object;
    readonly body: (items: readonly Document[], next: string | null) => object;
  };
  readonly bulk: {
    readonly method: 'patch' | 'post';
    readonly path: (recordPath: string) => string;
    /** The changes in a body, or a sentence when it has none. */
    readonly items: (body: unknown) => readonly BulkItem[] | string;
    readonly body: (
      results: readonly { readonly id: string; readonly status: number; readonly body: unknown }[],
    ) => object;
    readonly itemDoc: object;
  };
  readonly events: {
    readonly mode: 'structured' | 'binary';
    readonly type: (recordType: string, kind: string) => string;
    /** What an event carries as data. */
    readonly data: (record: Document, changed: readonly string[]) => object;
  };
}

export interface BulkItem {
  readonly id: string;
  readonly ifMatch: string | undefined;
  readonly key: string | undefined;
  readonly changes: Document;
}

/** A whole stand-in application. */
export interface Application {
  readonly dialect: Dialect;
  readonly records: readonly RecordDefinition[];
  /** The records of a fresh database, by record type. */
  readonly seed: () => ReadonlyMap<string, readonly Document[]>;
  /** Where signed messages of other programs are received, and how one becomes a record. */
  readonly receiver?: {
    readonly path: string;
    readonly recordType: string;
    readonly read: (
      received: Received,
      secret: string,
    ) => { readonly doc: Document; readonly taken: boolean };
  };
}

/** A message as it arrived. */
export interface Received {
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
}
