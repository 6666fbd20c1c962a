import { learn } from './learn';

const learnFrom = (
  text: string,
  elsewhere: Record<string, string> = {},
  address = 'https://quay.example/api/openapi.yaml',
) => learn({ from: 'openapi', text, address, elsewhere });
const yaml = `
openapi: 3.1.0
info: { title: Quay }
paths:
  /piers:
    get:
      responses:
        '200':
          content:
            application/json:
              schema: { type: array, items: { $ref: 'schemas.json#/pier' } }
`;
const schemas = JSON.stringify({
  pier: { type: 'object', properties: { id: { type: 'string' }, town: { $ref: './towns.json' } } },
});
const towns = JSON.stringify({ type: 'object', properties: { name: { type: 'string', maxLength: 9 } } });

test('what a document refers to elsewhere is asked for until it is whole, and nothing else is', async () => {
  expect(await learnFrom(yaml)).toEqual({
    is: 'wanting',
    addresses: ['https://quay.example/api/schemas.json'],
  });
  const first = { 'https://quay.example/api/schemas.json': schemas };
  expect(await learnFrom(yaml, first)).toEqual({
    is: 'wanting',
    addresses: ['https://quay.example/api/towns.json'],
  });
  const whole = await learnFrom(yaml, { ...first, 'https://quay.example/api/towns.json': towns });
  expect(whole.is === 'learnt' && whole.proposal.types[0]?.type.fields).toEqual([
    { name: 'id', label: 'Id', type: 'text', readOnly: true },
    {
      name: 'town',
      label: 'Town',
      type: 'object',
      fields: [{ name: 'name', label: 'Name', type: 'text', maxLength: 9 }],
    },
  ]);
});

test.each<[string, string, RegExp]>([
  ['nothing', ' ', /^It is empty\.$/],
  ['JSON that is cut off', '{"openapi": "3.1.0", "paths": {', /^It is no JSON: .+\.$/],
  ['a page', '<!doctype html><html>', /^It is a page/],
  ['YAML with a mistake', 'openapi: 3.1.0\npaths: [', /^It is neither JSON nor YAML: .+\.$/],
  ['a word', 'hello', /^It is neither JSON nor YAML\.$/],
  [
    'few lines that become millions',
    [
      'a: &a [x,x,x,x,x,x,x,x,x]',
      ...[...'bcdefgh'].map(
        (name, at) => `${name}: &${name} [${Array(9).fill(`*${'abcdefg'[at]}`).join(',')}]`,
      ),
    ].join('\n'),
    /alias/i,
  ],
])('%s is told in a sentence', async (_what, text, because) => {
  const result = await learnFrom(text);
  expect(result.is === 'nothing' && result.because).toMatch(because);
});

test('circles end: within a document, and between documents', async () => {
  const circle = {
    'https://quay.example/api/schemas.json': JSON.stringify({
      pier: {
        type: 'object',
        properties: {
          id: { type: 'string' },
          next: { $ref: 'openapi.yaml#/paths' },
          twin: { $ref: '#/pier' },
        },
      },
    }),
  };
  const result = await learnFrom(yaml, circle);
  expect(result.is === 'learnt' && result.proposal.types[0]?.type.fields[0]?.name).toBe('id');
});
