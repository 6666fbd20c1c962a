import { sameSecret } from '../kit/api';
import type { BulkItem, Dialect, Document } from '../kit/definition';

/** Yard Planner: arrays and custom fields, a parameter `where.field`, patches in bulk, events in binary mode. */
export const yardPlannerDialect: Dialect = {
  name: 'yard-planner',
  title: 'Yard Planner',
  base: '/yard',
  versionField: 'etag',
  updatedField: 'touchedAt',
  auth: {
    header: 'Authorization',
    accepts: (value, token) => sameSecret(value, `Key ${token}`),
    scheme: { type: 'apiKey', in: 'header', name: 'Authorization' },
  },
  list: {
    limit: 'size',
    cursor: 'after',
    search: 'text',
    filters: (query) => {
      const filters = new Map<string, string[]>();
      for (const [name, value] of Object.entries(query)) {
        if (name.startsWith('where.')) filters.set(name.slice(6), [value].flat().map(String));
        else if (!['size', 'after', 'text'].includes(name)) return `“${name}” is not a parameter of lists.`;
      }
      return filters;
    },
    filterDoc: { name: 'where.state', in: 'query', schema: { type: 'string' } },
    body: (items, next) => ({ results: items, paging: { after: next } }),
  },
  bulk: {
    method: 'patch',
    path: (records) => records,
    items: (body) => {
      const patches = (body as { patches?: unknown } | null)?.patches;
      if (!Array.isArray(patches)) return 'The body must have a list “patches”.';
      return patches.map(
        (item: { id?: unknown; ifMatch?: string; requestId?: string; patch?: Document }): BulkItem => ({
          id: String(item.id),
          ifMatch: item.ifMatch,
          key: item.requestId,
          changes: item.patch ?? {},
        }),
      );
    },
    body: (results) => ({
      outcomes: results.map(({ id, status, body }) => ({ id, ok: status === 200, status, body })),
    }),
    itemDoc: { properties: { patches: { type: 'array' } } },
  },
  events: {
    mode: 'binary',
    type: (recordType, kind) => `yard/${recordType}#${kind}`,
    data: (record, changed) => ({ entity: record, fields: changed }),
  },
};
