import { sameSecret } from '../kit/api';
import type { BulkItem, Dialect, Document } from '../kit/definition';

const known = ['Take', 'From', 'Look For'];

/** Fleet Log: names as in the headings of a paper log, a parameter for each field, amendments in bulk. */
export const fleetLogDialect: Dialect = {
  name: 'fleet-log',
  title: 'Fleet Log',
  base: '/fleet',
  versionField: 'Rev',
  updatedField: 'Amended At',
  auth: {
    header: 'Log-Pass',
    accepts: (value, token) => sameSecret(value, token),
    scheme: { type: 'apiKey', in: 'header', name: 'Log-Pass' },
  },
  list: {
    limit: 'Take',
    cursor: 'From',
    search: 'Look For',
    filters: (query) =>
      new Map(
        Object.entries(query)
          .filter(([name]) => !known.includes(name))
          .map(([name, value]) => [name, [value].flat().map(String)]),
      ),
    filterDoc: { name: 'Status Code', in: 'query', schema: { type: 'string' } },
    body: (items, next) => ({ Rows: items, 'Next From': next }),
  },
  bulk: {
    method: 'post',
    path: (records) => `${records}/amend`,
    items: (body) => {
      const amendments = (body as { Amendments?: unknown } | null)?.Amendments;
      if (!Array.isArray(amendments)) return 'The body must have a list “Amendments”.';
      return amendments.map(
        (item: { Key?: unknown; Match?: string; Once?: string; Fields?: Document }): BulkItem => ({
          id: String(item.Key),
          ifMatch: item.Match,
          key: item.Once,
          changes: item.Fields ?? {},
        }),
      );
    },
    body: (results) => ({
      Amended: results.map(({ id, status, body }) => ({ Key: id, Result: status, Row: body })),
    }),
    itemDoc: { properties: { Amendments: { type: 'array' } } },
  },
  events: {
    mode: 'structured',
    type: (recordType, kind) => `log.${kind}.${recordType}`,
    data: (record) => ({ Row: record }),
  },
};
