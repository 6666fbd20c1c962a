import type { Field } from '../model/system';
import { fieldsOfSchema } from './fieldsOfSchema';
import { readPointer } from '../formats/jsonPointer';

const object = (properties: Record<string, unknown>, more: Record<string, unknown> = {}) => ({
  type: 'object',
  properties,
  ...more,
});

test('the worked example of JSON Schema gives a field for each property', () => {
  // “Getting started step-by-step”, json-schema.org, draft 2020-12: the product catalogue. From memory.
  const product = object(
    {
      productId: { description: 'The unique identifier for a product', type: 'integer' },
      productName: { description: 'Name of the product', type: 'string' },
      price: { description: 'The price of the product', type: 'number', exclusiveMinimum: 0 },
      tags: { type: 'array', items: { type: 'string' }, minItems: 1, uniqueItems: true },
      dimensions: object({
        length: { type: 'number' },
        width: { type: 'number' },
        height: { type: 'number' },
      }),
    },
    { required: ['productId', 'productName', 'price'] },
  );
  expect(fieldsOfSchema(product).map(({ name, type, required }) => [name, type, required])).toEqual([
    ['productId', 'integer', true],
    ['productName', 'text', true],
    ['price', 'decimal', true],
    ['tags', 'list', undefined],
    ['dimensions', 'object', undefined],
  ]);
});

test('lengths, ranges, options and what is read-only are kept', () => {
  const fields = fieldsOfSchema(
    object({
      code: { type: 'string', title: 'Code', maxLength: 4, readOnly: true },
      rank: { type: 'integer', minimum: 1, maximum: 9 },
      state: { type: ['string', 'null'], enum: ['open', 'shut', null] },
      marks: { type: 'array', items: { type: 'string', enum: ['cold', 'dry'] } },
      day: { type: 'string', format: 'date' },
      seen: { type: 'string', format: 'date-time' },
      held: { type: 'boolean' },
    }),
  );
  const options = (...values: string[]) => values.map((value) => ({ value, label: value }));
  expect(fields).toEqual([
    { name: 'code', label: 'Code', type: 'text', readOnly: true, maxLength: 4 },
    { name: 'rank', label: 'rank', type: 'integer', min: 1, max: 9 },
    { name: 'state', label: 'state', type: 'choice', options: options('open', 'shut') },
    { name: 'marks', label: 'marks', type: 'multichoice', options: options('cold', 'dry') },
    { name: 'day', label: 'day', type: 'date' },
    { name: 'seen', label: 'seen', type: 'datetime' },
    { name: 'held', label: 'held', type: 'boolean' },
  ]);
});

test('references are followed, and a circle ends', () => {
  const document: Record<string, unknown> = {
    person: object({ name: { type: 'string' }, chief: { $ref: '#/person' } }),
  };
  const resolve = (schema: unknown) =>
    typeof schema === 'object' && schema !== null && '$ref' in schema
      ? readPointer(document, String(schema.$ref).slice(1))
      : schema;
  const [name, chief] = fieldsOfSchema({ $ref: '#/person' }, resolve);
  expect(name?.type).toBe('text');
  expect(chief).toMatchObject({ name: 'chief', type: 'object' });
});

test('a schema whose references make endlessly many fields of few is read in part', () => {
  const wide: Record<string, unknown> = { type: 'object' };
  wide['properties'] = Object.fromEntries(Array.from({ length: 50 }, (_none, at) => [`f${at}`, wide]));
  wide['properties'] = { id: { type: 'string' }, ...(wide['properties'] as object) };
  const count = (fields: readonly Field[]): number =>
    fields.reduce((sum, field) => sum + 1 + count(field.fields ?? []), 0);
  const read = count(fieldsOfSchema(wide));
  expect(read).toBeGreaterThan(50);
  expect(read).toBeLessThanOrEqual(2000);
});

test.each([[null], ['text'], [{}], [{ type: 'object' }], [{ properties: [] }], [object({ a: 7 })]])(
  '%j tells of no field',
  (schema) => expect(fieldsOfSchema(schema)).toEqual([]),
);

test('an array of objects is a list of their fields, another array a list of values', () => {
  const fields = fieldsOfSchema({
    type: 'object',
    properties: {
      lines: {
        type: 'array',
        title: 'Cargo lines',
        items: {
          type: 'object',
          required: ['no'],
          properties: { no: { type: 'integer' }, goods: { type: 'string', maxLength: 40 } },
        },
      },
      marks: { type: 'array', items: { type: 'string' } },
    },
  });
  expect(fields).toEqual([
    {
      name: 'lines',
      label: 'Cargo lines',
      type: 'list',
      fields: [
        { name: 'no', label: 'no', type: 'integer', required: true },
        { name: 'goods', label: 'goods', type: 'text', maxLength: 40 },
      ],
    },
    { name: 'marks', label: 'marks', type: 'list' },
  ]);
});
