import { dump } from 'js-yaml';
import { learn } from '../server/src/compute/learn';
import { bestTimes, type Figure } from './timing';

const resources = 500;
const mostMs = 2000;

/** An OpenAPI document of a thousand paths, read and proposed from. */
export async function benchLearning(): Promise<readonly Figure[]> {
  const document = documentOf(resources);
  const json = JSON.stringify(document);
  const yaml = dump(document);
  const read = (text: string) => async () => {
    const learnt = await learn({
      from: 'openapi',
      text,
      address: 'https://quay.example/openapi',
      elsewhere: {},
    });
    if (learnt.is !== 'learnt' || learnt.proposal.types.length !== resources)
      throw new Error('the document was not read as a whole');
  };
  const times = await bestTimes({ json: read(json), yaml: read(yaml) }, 3);
  return Object.entries(times).map(([form, value]) => ({
    what: `OpenAPI of ${resources * 2} paths, ${Math.round((form === 'json' ? json : yaml).length / 1024)} KB of ${form}`,
    value,
    unit: 'ms',
    wanted: `under ${mostMs}`,
    met: value < mostMs,
  }));
}

function documentOf(count: number): object {
  const paths: Record<string, object> = {};
  const schemas: Record<string, object> = {};
  for (let at = 0; at < count; at++) {
    const name = `Thing${at}`;
    const ref = { $ref: `#/components/schemas/${name}` };
    const json = (schema: object) => ({ 'application/json': { schema } });
    const parameter = (of: string, type: string) => ({ name: of, in: 'query', schema: { type } });
    paths[`/things${at}`] = {
      get: {
        parameters: [
          parameter('page', 'integer'),
          parameter('per_page', 'integer'),
          parameter('name', 'string'),
        ],
        responses: { 200: { description: 'A page.', content: json({ type: 'array', items: ref }) } },
      },
      post: {
        requestBody: { content: json(ref) },
        responses: { 201: { description: 'Made.', content: json(ref) } },
      },
    };
    paths[`/things${at}/{id}`] = {
      get: { responses: { 200: { description: 'One.', content: json(ref) } } },
      patch: {
        requestBody: { content: json(ref) },
        responses: { 200: { description: 'Changed.', content: json(ref) } },
      },
      delete: { responses: { 204: { description: 'Gone.' } } },
    };
    schemas[name] = {
      type: 'object',
      required: ['name'],
      properties: {
        id: { type: 'string', readOnly: true },
        name: { type: 'string', maxLength: 80 },
        state: { type: 'string', enum: ['open', 'shut', 'held'] },
        weight: { type: 'number', minimum: 0 },
        [`thing${(at + 1) % count}_id`]: { type: 'string' },
        address: { $ref: '#/components/schemas/Address' },
        lines: {
          type: 'array',
          items: { type: 'object', properties: { no: { type: 'integer' }, text: { type: 'string' } } },
        },
        updated_at: { type: 'string', format: 'date-time', readOnly: true },
      },
    };
  }
  schemas['Address'] = {
    type: 'object',
    properties: { town: { type: 'string' }, country: { type: 'string', maxLength: 2 } },
  };
  return {
    openapi: '3.1.0',
    info: { title: 'A thousand paths', version: '1' },
    paths,
    components: { schemas },
  };
}
