import { rights } from '@vast-knot/core';
import { jsonSchemaOf, type JsonSchema } from '../http/jsonSchemaOf';
import { audited } from './audited';
import { get, type Handle, type Route, type Takes } from './route';

/** Returns the description of the API (OpenAPI 3.1.0), made from its routes: what each takes, and the right that it wants. */
export function openApiOf(routes: readonly Route[]): JsonSchema {
  const paths = new Map<string, Record<string, unknown>>();
  for (const route of routes) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    paths.set(path, { ...paths.get(path), [route.method]: operationOf(route) });
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Vast Knot',
      version: '1',
      description:
        'Programs sign in with a token, which somebody makes on their own page with some of their rights. What goes wrong is told as Problem Details (RFC 9457).',
    },
    servers: [{ url: '/api' }],
    security: [{ token: [] }],
    paths: Object.fromEntries(paths),
    components: {
      securitySchemes: { token: { type: 'http', scheme: 'bearer' } },
      schemas: { Problem: problem },
      responses: {
        Problem: {
          description: 'Why it was not done.',
          content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
        },
      },
    },
  };
}

/** RFC 9457, 3.1, with the places that are wrong. */
const problem = {
  type: 'object',
  required: ['type', 'title', 'status', 'detail'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string' },
    errors: {
      type: 'array',
      items: { type: 'object', properties: { at: { type: 'string' }, message: { type: 'string' } } },
    },
  },
};

function operationOf({ method, path, right, takes }: Route): JsonSchema {
  const told = audited.get(`${method} ${path}`)?.what;
  const body = bodyOf(takes);
  return {
    operationId: [method, ...path.split('/').filter((word) => word !== '')].join('-').replace(/[:.]/g, ''),
    tags: [path.split('/')[1] ?? ''],
    summary: rights[right].replace(/^./, (letter) => letter.toUpperCase()),
    description: `Wants the right ${right}.${told === undefined ? '' : ` The audit says of it: ${told}.`}`,
    parameters: [...path.matchAll(/:(\w+)/g)]
      .map(([, name]): JsonSchema => ({ name, in: 'path', required: true, schema: { type: 'string' } }))
      .concat(queryOf(takes))
      .concat(takes.revision ? [ifMatch] : []),
    ...(body && { requestBody: body }),
    responses: {
      '2XX': { description: 'It was done.' },
      default: { $ref: '#/components/responses/Problem' },
    },
  };
}

const ifMatch: JsonSchema = {
  name: 'If-Match',
  in: 'header',
  required: true,
  description: 'The revision that was changed, as its ETag has it: "7".',
  schema: { type: 'string' },
};

function bodyOf({ body, csv, file }: Takes): JsonSchema | undefined {
  if (file)
    return {
      required: true,
      content: { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } },
    };
  if (csv) return { required: true, content: { 'text/csv': { schema: { type: 'string' } } } };
  return body && { required: true, content: { 'application/json': { schema: jsonSchemaOf(body) } } };
}

function queryOf({ query }: Takes): readonly JsonSchema[] {
  if (!query) return [];
  const { properties = {}, required = [] } = jsonSchemaOf(query) as {
    readonly properties?: Readonly<Record<string, JsonSchema>>;
    readonly required?: readonly string[];
  };
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }));
}

const docs: Handle<'/docs'> = (_request, response) => {
  response.redirect(302, '/reference/api');
};

/** The description of the API itself, for programs and for people; `routes` gives all that is to be described. */
export function openApiRoutes(routes: () => readonly Route[]): readonly Route[] {
  let made: JsonSchema | undefined;
  return [
    get('/openapi.json', 'systems.read', (_request, response) => {
      response.json((made ??= openApiOf(routes())));
    }),
    get('/docs', 'systems.read', docs),
  ];
}
