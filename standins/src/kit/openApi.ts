import type { Application, JsonSchema, RecordDefinition } from './definition';

/** Returns the schema of a page as the dialect makes it: its list holds records, and its texts may be null on the last page. */
function pageSchema(page: unknown, record: object): object {
  if (Array.isArray(page)) return { type: 'array', items: record };
  if (typeof page !== 'object' || page === null) return { type: ['string', 'null'] };
  const members = Object.entries(page).map(([name, value]) => [name, pageSchema(value, record)]);
  return { type: 'object', properties: Object.fromEntries(members) as object };
}

/** Returns the OpenAPI 3.1 document of an application, made from its definition. */
export function openApi({ dialect, records }: Application): object {
  const problem = {
    description: 'A problem (RFC 9457).',
    content: { 'application/problem+json': { schema: { type: 'object' } } },
  };
  // In some dialects a bulk change goes to the path of the list.
  const paths: Record<string, object> = {};
  for (const [path, item] of records.flatMap((record) => pathsOf(record)))
    paths[path] = { ...paths[path], ...item };

  function pathsOf(record: RecordDefinition): [string, object][] {
    const ref = { $ref: `#/components/schemas/${record.type}` };
    const json = (schema: object) => ({ 'application/json': { schema } });
    const one = {
      description: record.title,
      content: json(ref),
      headers: { ETag: { schema: { type: 'string' } } },
    };
    const query = (name: string, type: string) => ({ name, in: 'query', schema: { type } });
    const ifMatch = { name: 'If-Match', in: 'header', schema: { type: 'string' } };
    const key = { name: 'Idempotency-Key', in: 'header', schema: { type: 'string' } };
    const id = { name: 'id', in: 'path', required: true, schema: { type: 'string' } };
    const base = `${dialect.base}/${record.path}`;
    return [
      [
        base,
        {
          get: {
            operationId: `list_${record.path}`,
            parameters: [
              query(dialect.list.limit, 'integer'),
              query(dialect.list.cursor, 'string'),
              query(dialect.list.search, 'string'),
              dialect.list.filterDoc,
            ],
            responses: {
              200: {
                description: `A page of ${record.path}.`,
                content: json(pageSchema(dialect.list.body([{}], 'next'), ref)),
              },
              400: problem,
            },
          },
          post: {
            operationId: `create_${record.type}`,
            parameters: [key],
            requestBody: { required: true, content: json(ref) },
            responses: { 201: one, 422: problem },
          },
        },
      ],
      [
        `${base}/{id}`,
        {
          parameters: [id],
          get: { operationId: `get_${record.type}`, responses: { 200: one, 404: problem } },
          delete: {
            operationId: `remove_${record.type}`,
            parameters: [ifMatch],
            responses: { 204: { description: 'Removed.' }, 404: problem, 412: problem },
          },
          patch: {
            operationId: `patch_${record.type}`,
            parameters: [ifMatch, key],
            requestBody: {
              required: true,
              content: { 'application/merge-patch+json': { schema: { type: 'object' } } },
            },
            responses: { 200: one, 404: problem, 412: problem, 422: problem },
          },
        },
      ],
      [
        `${dialect.base}/${dialect.bulk.path(record.path)}`,
        {
          [dialect.bulk.method]: {
            operationId: `patch_many_${record.path}`,
            requestBody: { required: true, content: json({ type: 'object', ...dialect.bulk.itemDoc }) },
            responses: {
              200: {
                description: 'A result for each item, in their order.',
                content: json({ type: 'object' }),
              },
            },
          },
        },
      ],
    ];
  }

  return {
    openapi: '3.1.0',
    info: { title: dialect.title, version: '1.0.0', description: 'A simulated business application.' },
    paths,
    components: {
      schemas: Object.fromEntries(records.map((record) => [record.type, whole(record.schema)])),
      securitySchemes: { key: dialect.auth.scheme },
    },
    security: [{ key: [] }],
  };

  function whole(schema: JsonSchema): JsonSchema {
    return {
      ...schema,
      properties: {
        id: { type: 'string', title: 'Id', readOnly: true },
        ...schema.properties,
        [dialect.versionField]: { type: 'integer', title: 'Revision', readOnly: true },
        [dialect.updatedField]: { type: 'string', format: 'date-time', title: 'Last change', readOnly: true },
      },
    };
  }
}
