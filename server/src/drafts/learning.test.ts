import { Agent } from 'undici';
import { refreshed, schemaChanges, type Json } from '@vast-knot/core';
import type { Computer } from '../compute/computer';
import { learn, type LearnAsked } from '../compute/learn';
import { TestApplication } from '../connector/http/testApplication';
import { learnFromDocument, learnTypes, type LearningParts } from './learning';

const app = new TestApplication();
beforeAll(() => app.start());
afterAll(() => app.stop());
beforeEach(() => void app.seen.splice(0));

/** Learns in this thread. */
const computer: Computer = {
  run: async (_kind, asked) => (await learn(asked as LearnAsked)) as never,
  stop: () => Promise.resolve(),
};
const nothing = () => Promise.resolve({} as never);
const parts = (allowed: readonly string[] = []): LearningParts => ({
  computer,
  registry: { get: nothing, recent: nothing },
  outside: { dispatcher: new Agent(), allowedOutbound: allowed },
});
const types = (document = '/openapi.json') => learnTypes(app.connector({}, { document }), parts());
const json = (schema: unknown) => ({ 'application/json': { schema } });
const documentOf = (schema: unknown): object => ({
  openapi: '3.1.0',
  paths: {
    '/piers': { get: { responses: { 200: { content: json({ type: 'object' }) } } } },
    '/piers/{number}': { get: { responses: { 200: { content: json(schema) } } } },
  },
  components: { schemas: { pier: { properties: { id: { type: 'string' }, rev: { type: 'integer' } } } } },
});

describe('what a system says of its record types by now', () => {
  test('the schema of the answer that holds one record gives the fields, through references', async () => {
    app.reply = () => ({ body: documentOf({ $ref: '#/components/schemas/pier' }) });
    expect(await types()).toEqual([
      {
        name: 'pier',
        fields: [
          { name: 'id', label: 'Id', type: 'text' },
          { name: 'rev', label: 'Rev', type: 'integer' },
        ],
      },
    ]);
    expect(app.seen[0]?.url).toBe('/openapi.json');
    expect(app.seen[0]?.headers.authorization).toBe('Bearer s3cret-key');
  });

  test('records may stand in an envelope, and the document be YAML', async () => {
    app.reply = () => ({
      headers: { 'content-type': 'application/yaml' },
      body: `
openapi: 3.1.0
paths:
  /piers/search:
    get: { responses: { '200': { content: { application/json: { schema: { properties: { data: { type: array, items: { $ref: '#/p' } } } } } } } } }
  /piers:
    get: { responses: { '200': { content: { application/json: { schema: { properties: { data: { type: array, items: { $ref: '#/p' } } } } } } } } }
  /piers/{id}:
    get: { responses: { '200': { content: { application/json: { schema: { properties: { data: { $ref: '#/p' } } } } } } } }
p: { properties: { id: { type: string }, name: { type: string, maxLength: 9 } } }
`,
    });
    expect((await types())[0]?.fields.map(({ name, maxLength }) => [name, maxLength])).toEqual([
      ['id', undefined],
      ['name', 9],
    ]);
  });

  test.each<[string, Json | object, RegExp]>([
    ['a page of a portal', '<html>', /It is a page/],
    ['no paths', { openapi: '3.1.0' }, /says nothing about one pier below \/piers/],
    [
      'a circle of references',
      documentOf({ $ref: '#/paths/~1piers~1{number}/get/responses/200/content/application~1json/schema' }),
      /says nothing about one pier/,
    ],
    ['a reference that is no URI', documentOf({ $ref: '#/components/%zz' }), /says nothing about one pier/],
    [
      'a reference to elsewhere that nobody answers',
      documentOf({ $ref: 'http://127.0.0.1:9/b.json' }),
      /It refers to http:\/\/127\.0\.0\.1:9\/b\.json\. It cannot be reached/,
    ],
  ])('%s is told in a sentence', async (_name, body, because) => {
    app.reply = () => ({ body });
    await expect(types()).rejects.toThrow(because);
  });

  test('a document that stands elsewhere is fetched without the secret', async () => {
    const elsewhere = new TestApplication();
    await elsewhere.start();
    elsewhere.reply = () => ({ body: documentOf({ $ref: '#/components/schemas/pier' }) });
    const connector = app.connector({}, { document: `http://${elsewhere.host}/api.json` }, 's3cret-key', [
      elsewhere.host,
    ]);
    expect((await learnTypes(connector, parts()))[0]?.name).toBe('pier');
    expect(elsewhere.seen[0]?.headers.authorization).toBeUndefined();
    await elsewhere.stop();
  });
});

test('what was proposed from a document is what the document says when it is read again', async () => {
  const document = JSON.stringify({
    ...documentOf({ $ref: '#/components/schemas/pier' }),
    components: {
      schemas: {
        pier: {
          required: ['name'],
          properties: {
            id: { type: 'string' },
            name: { type: 'string', maxLength: 9 },
            pier_id: { type: 'string', maxLength: 40 },
            updated_at: { type: 'string', format: 'date-time' },
          },
        },
      },
    },
  });
  const { types: proposed } = await learnFromDocument(
    { from: 'openapi', text: document, address: '' },
    parts(),
  );
  const known = proposed.map(({ type }) => type);
  // A reference and a time that the system keeps were guessed from names, and are not taken back.
  expect(known[0]?.fields.map(({ type, keptBySystem }) => [type, keptBySystem])).toEqual([
    ['text', undefined],
    ['text', undefined],
    ['reference', undefined],
    ['datetime', true],
  ]);
  const learnt = proposed.map(({ type, said = [] }) => ({ name: type.name, fields: said }));
  expect(schemaChanges(known, refreshed(known, learnt))).toEqual([]);
});
