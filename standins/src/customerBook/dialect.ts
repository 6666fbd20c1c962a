import { sameSecret } from '../kit/api';
import type { BulkItem, Dialect, Document } from '../kit/definition';

/** Customer Book: snake_case, `filter[field]=a,b`, events in structured mode with the record as it is now. */
export const customerBookDialect: Dialect = {
  name: 'customer-book',
  title: 'Customer Book',
  base: '/api',
  versionField: 'revision',
  updatedField: 'updated_at',
  auth: {
    header: 'Authorization',
    accepts: (value, token) => sameSecret(value, `Bearer ${token}`),
    scheme: { type: 'http', scheme: 'bearer' },
  },
  list: {
    limit: 'limit',
    cursor: 'cursor',
    search: 'q',
    filters: (query) => {
      const filters = new Map<string, string[]>();
      for (const [name, value] of Object.entries(query)) {
        const field = /^filter\[([\w.]+)\]$/.exec(name)?.[1];
        if (field !== undefined) filters.set(field, [value].flat().map(String));
        else if (!['limit', 'cursor', 'q'].includes(name)) return `“${name}” is not a parameter of lists.`;
      }
      return filters;
    },
    filterDoc: {
      name: 'filter',
      in: 'query',
      style: 'deepObject',
      schema: { type: 'object', additionalProperties: { type: 'string' } },
    },
    body: (items, next) => ({ items, next_cursor: next }),
  },
  bulk: {
    method: 'patch',
    path: (records) => records,
    items: (body) => {
      const items = (body as { items?: unknown } | null)?.items;
      if (!Array.isArray(items)) return 'The body must have a list “items”.';
      return items.map(
        (item: { id?: unknown; if_match?: string; idempotency_key?: string; set?: Document }): BulkItem => ({
          id: String(item.id),
          ifMatch: item.if_match,
          key: item.idempotency_key,
          changes: item.set ?? {},
        }),
      );
    },
    body: (results) => ({ results: results.map(({ id, status, body }) => ({ id, status, body })) }),
    itemDoc: { properties: { items: { type: 'array' } } },
  },
  events: {
    mode: 'structured',
    type: (recordType, kind) => `customer-book.${recordType}.${kind}`,
    data: (record) => ({ record }),
  },
};
