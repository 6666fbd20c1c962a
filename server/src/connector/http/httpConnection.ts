import type { EventStyle } from '../events';
import type { FilterStyle } from './filters';

/**
 * How a system with an HTTP/JSON API is spoken to, as data: a new system is a new description and no new code. Texts
 * in braces are filled in when a request is made; locations in answers are JSON Pointers (RFC 6901).
 */
export interface HttpConnection {
  readonly kind: 'http';
  readonly baseUrl: string;
  /** `{token}` stands for the secret. */
  readonly auth: { readonly header: string; readonly value: string };
  /**
   * The field in which a record carries its version, a count or the time of its last change, and how `If-Match` says it; without that
   * a write is not guarded by it.
   */
  readonly version?: { readonly field: string; readonly ifMatch?: string };
  /** Where the system describes itself, as an OpenAPI document below its address. */
  readonly document?: string;
  readonly recordTypes: Readonly<Record<string, { readonly path: string }>>;
  readonly list: {
    readonly items: string;
    readonly next: string;
    readonly cursor: string;
    readonly limit: { readonly name: string; readonly most: number };
    readonly search: string;
    readonly filter: FilterStyle;
    /** Filtered by the field that holds the id, it gives every record that can be read alone. */
    readonly manyById?: boolean;
  };
  readonly bulk: {
    readonly method: 'PATCH' | 'POST' | 'PUT';
    /** `{path}` stands for the path of the record type. */
    readonly path: string;
    /** Member of the body that holds the items. */
    readonly items: string;
    /** `{id}`, `{ifMatch}`, `{key}` and `{changes}` are filled in. */
    readonly item: Readonly<Record<string, string>>;
    readonly results: string;
    readonly status: string;
    readonly record: string;
    readonly problem: string;
    /** Items sent at a time. */
    readonly size: number;
  };
  /** How a record is created; without it none can be. `{path}` stands for the path of the record type. */
  readonly create?: {
    readonly method: 'POST' | 'PUT';
    readonly path: string;
    /** The header that carries the key by which a repeated request is known. */
    readonly keyHeader: string;
  };
  /** How a record is removed, or retired; without it none can be. `{path}` and `{id}` are filled in. */
  readonly remove?: {
    readonly method: 'DELETE' | 'PATCH' | 'POST';
    readonly path: string;
    /** What is sent, for a system in which records are retired by a change. */
    readonly body?: Readonly<Record<string, unknown>>;
  };
  /** How much may be asked of it; without these, eight requests at once, and twenty seconds for an answer. */
  readonly limits?: {
    readonly requestsAtOnce?: number;
    readonly requestsPerSecond?: number;
    readonly patienceSeconds?: number;
  };
  readonly events: EventStyle;
  /** How the system is asked to send its events; `{url}` and `{secret}` are filled in. */
  readonly subscribe?: {
    readonly method: 'PUT' | 'POST';
    readonly path: string;
    readonly body: Readonly<Record<string, string>>;
  };
}
