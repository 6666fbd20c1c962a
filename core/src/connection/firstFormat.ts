import type { BulkChanging } from './changing';
import type { Filter } from './filter';
import type { HttpConnection, Limits, Subscribing } from './httpConnection';
import type { OwnStyle } from './recordTypeStyle';
import type { CloudEventsTelling } from './told';

/** A connection as the first version of the format had it: one style for all record types. */
interface FirstFormat {
  readonly baseUrl: string;
  readonly auth: { readonly header: string; readonly value: string };
  readonly version?: { readonly field: string; readonly ifMatch?: string };
  readonly document?: string;
  readonly recordTypes: Readonly<Record<string, { readonly path: string }>>;
  readonly list: {
    readonly items: string;
    readonly next: string;
    readonly cursor: string;
    readonly limit: { readonly name: string; readonly most: number };
    readonly search: string;
    readonly filter: Filter;
    readonly manyById?: boolean;
  };
  readonly bulk: Omit<BulkChanging, 'kind'>;
  readonly create?: { readonly method: 'POST' | 'PUT'; readonly path: string; readonly keyHeader: string };
  readonly remove?: OwnStyle['removing'];
  readonly limits?: Limits;
  readonly events: Omit<CloudEventsTelling, 'kind'>;
  readonly subscribe?: Subscribing;
}

/**
 * Returns a connection of the first format as this one has it. What is not as that format was comes out as something that the schema
 * refuses, with the place where it is wrong.
 */
export function fromFirstFormat(json: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const { auth, version, list, bulk, create, remove, events, ...same } = json as unknown as FirstFormat;
  const connection: HttpConnection = {
    ...same,
    kind: 'http',
    format: 2,
    signIn: { kind: 'header', ...auth },
    usual: {
      list: {
        path: '{path}',
        items: list?.items,
        paging: { kind: 'cursor', next: list?.next, parameter: list?.cursor, limit: list?.limit },
        filter: list?.filter,
        search: list?.search,
        ...(list?.manyById !== undefined && { manyById: list.manyById }),
      },
      one: { kind: 'address', path: '{path}/{id}' },
      version: version ? { kind: 'field', ...version } : { kind: 'none' },
      changing: { kind: 'bulk', ...bulk },
      ...(create && { creating: create }),
      ...(remove && { removing: remove }),
    },
    told: { kind: 'cloud events', ...events },
  };
  return { ...connection };
}
