import { sameSecret } from '../kit/api';
import type { BulkItem, Dialect, Document } from '../kit/definition';

/** Freight Desk: camelCase, repeated `where=field:eq:value`, events in binary mode that also list what changed. */
export const freightDeskDialect: Dialect = {
  name: 'freight-desk',
  title: 'Freight Desk',
  base: '/v2',
  versionField: 'rev',
  updatedField: 'updatedAt',
  auth: {
    header: 'X-Desk-Key',
    accepts: (value, token) => sameSecret(value, token),
    scheme: { type: 'apiKey', in: 'header', name: 'X-Desk-Key' },
  },
  list: {
    limit: 'pageSize',
    cursor: 'pageToken',
    search: 'search',
    filters: (query) => {
      const filters = new Map<string, string[]>();
      for (const condition of [query['where'] ?? []].flat().map(String)) {
        const parts = /^(\w+):(eq|in):(.*)$/s.exec(condition);
        const [, field, operator, value = ''] = parts ?? [];
        if (field === undefined) return `“${condition}” is not a condition; write where=field:eq:value.`;
        filters.set(field, operator === 'in' ? value.split('|').map(decodeURIComponent) : [value]);
      }
      return filters;
    },
    filterDoc: { name: 'where', in: 'query', schema: { type: 'array', items: { type: 'string' } } },
    body: (items, next) => ({ data: items, page: { next } }),
  },
  bulk: {
    method: 'post',
    path: (records) => `${records}/changes`,
    items: (body) => {
      const operations = (body as { operations?: unknown } | null)?.operations;
      if (!Array.isArray(operations)) return 'The body must have a list “operations”.';
      return operations.map(
        (item: {
          recordId?: unknown;
          ifMatch?: string;
          idempotencyKey?: string;
          changes?: Document;
        }): BulkItem => ({
          id: String(item.recordId),
          ifMatch: item.ifMatch,
          key: item.idempotencyKey,
          changes: item.changes ?? {},
        }),
      );
    },
    body: (results) => ({
      outcomes: results.map(({ id, status, body }) =>
        status === 200
          ? { recordId: id, code: status, entity: body }
          : { recordId: id, code: status, fault: body },
      ),
    }),
    itemDoc: { properties: { operations: { type: 'array' } } },
  },
  events: {
    mode: 'binary',
    type: (recordType, kind) => `freightdesk.${recordType}.${kind}.v2`,
    data: (record, changed) => ({ record, changed }),
  },
};
