import type { Field, LearntType, SystemView } from '@vast-knot/core';
import { World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start({ ROLE: 'api' });
});
afterAll(() => world.stop());

/** What an OpenAPI document can say of a field. A reference is a text to it, and labels of options are not in it. */
const sayable = ({
  name,
  type,
  required,
  readOnly,
  maxLength,
  min,
  max,
  options,
  fields,
}: Field): unknown => ({
  name,
  type: type === 'reference' ? 'text' : type,
  required: required === true,
  readOnly: readOnly === true,
  maxLength: type === 'reference' ? undefined : maxLength,
  min,
  max,
  options: options?.map(({ value }) => value),
  fields: fields?.map(sayable),
});

async function learnt(key: string) {
  const systems = (await world.api<SystemView[]>('GET', '/systems')).body;
  const known = systems.find((system) => system.key === key)?.recordTypes ?? [];
  const { status, body } = await world.api<LearntType[]>('GET', `/systems/${key}/schema`);
  expect(status).toBe(200);
  const fieldsOf = (type: string) => body.find(({ name }) => name === type)?.fields ?? [];
  expect(body.map(({ name }) => name).sort()).toEqual(known.map(({ name }) => name).sort());
  return known.map(({ name, fields }) => ({ known: fields, told: fieldsOf(name) }));
}

test.each(['customer-book', 'freight-desk', 'fleet-log', 'yard-planner'])(
  '%s says of its record types what is known of them here',
  async (key) => {
    for (const { known, told } of await learnt(key)) expect(told.map(sayable)).toEqual(known.map(sayable));
  },
);

test('of a system that rules only read, more can be learnt than is known here', async () => {
  const [message] = await learnt('notice-post');
  const words = (fields: readonly Field[] = []) => fields.map(({ name, type }) => [name, type]);
  expect(words(message?.told)).toEqual(words(message?.known));
  expect(message?.told.find(({ name }) => name === 'text')).toMatchObject({ maxLength: 4000 });
});

test('a system that only tells says so', async () => {
  const { status, body } = await world.api<{ detail: string }>('GET', '/systems/inlets/schema');
  expect([status, body.detail]).toEqual([422, 'It only tells; it does not describe itself.']);
});
