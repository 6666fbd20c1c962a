import { proposeFromJsonSchema } from './jsonSchema';

test('a schema gives the object that it describes, or those among its definitions', () => {
  const pier = {
    type: 'object',
    title: 'Pier',
    properties: { id: { type: 'string' }, ship_id: { type: 'string' } },
  };
  const ship = { type: 'object', properties: { id: { type: 'string' }, name: { type: 'string' } } };
  const one = proposeFromJsonSchema(pier);
  expect(one.ok && one.proposal.types.map(({ type }) => [type.name, type.label, type.idField])).toEqual([
    ['Pier', 'Pier', 'id'],
  ]);
  const both = proposeFromJsonSchema({ $defs: { pier, ship } });
  expect(both.ok && both.proposal.types.map(({ type }) => type.name)).toEqual(['pier', 'ship']);
  expect(both.ok && both.proposal.types[0]?.type.fields[1]).toMatchObject({
    type: 'reference',
    refersTo: ['ship'],
  });
});

test.each([
  ['a schema of a text', { type: 'string' }, 'It describes no object with properties.'],
  [
    'an object without anything that could be its id',
    { properties: { tags: { type: 'array' } }, title: 'x' },
    'x: none of its fields could be the id of a record.',
  ],
  ['text', 'x', 'It is no object, and so no JSON Schema that tells of fields.'],
])('%s is told in a sentence', (_what, schema, because) => {
  expect(proposeFromJsonSchema(schema)).toEqual({ ok: false, because });
});
