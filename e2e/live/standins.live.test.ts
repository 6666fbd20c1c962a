import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { json } from 'node:stream/consumers';
import { leafFields, type Field, type SystemView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

type Doc = Record<string, unknown>;

describe('the APIs of the stand-ins', () => {
  test('lists come in pages by key: every record once, in order', async () => {
    const ids: string[] = [];
    let cursor = '';
    do {
      const { body } = await world.ask<{ items: Doc[]; next_cursor: string | null }>(
        'customer-book',
        'GET',
        `/api/companies?limit=37${cursor}`,
      );
      ids.push(...body.items.map(({ id }) => String(id)));
      cursor = body.next_cursor === null ? '' : `&cursor=${body.next_cursor}`;
    } while (cursor !== '');
    expect(ids).toHaveLength(240);
    expect(ids).toEqual([...new Set(ids)].sort());
  });

  test('a change for another version is refused with 412, and one that is not valid with the field by name', async () => {
    const bulk = await world.ask<{ outcomes: Doc[] }>('freight-desk', 'POST', '/v2/bookings/changes', {
      operations: [
        { recordId: 'BK70010', ifMatch: '"1"', changes: { collectionTown: 'Murrow' } },
        { recordId: 'BK70011', ifMatch: '"9"', changes: { collectionTown: 'Murrow' } },
        { recordId: 'BK70012', changes: { collectionTown: 'x'.repeat(31) } },
        { recordId: 'BK1', changes: {} },
      ],
    });
    expect(bulk.body.outcomes).toMatchObject([
      { recordId: 'BK70010', code: 200, entity: { collectionTown: 'Murrow', rev: 2 } },
      { recordId: 'BK70011', code: 412 },
      { recordId: 'BK70012', code: 422, fault: { errors: [{ field: 'collectionTown' }] } },
      { recordId: 'BK1', code: 404 },
    ]);
  });

  test('the same key is the same write: it is answered again and done once', async () => {
    const send = () =>
      world.ask<{ outcomes: Doc[] }>('freight-desk', 'POST', '/v2/bookings/changes', {
        operations: [
          {
            recordId: 'BK70020',
            ifMatch: '"1"',
            idempotencyKey: 'k-1',
            changes: { collectionTown: 'Murrow' },
          },
        ],
      });
    const first = await send();
    expect(await send()).toEqual(first);
    expect(await world.booking('BK70020')).toMatchObject({ rev: 2 });
  });

  test('an unknown filter and a wrong key are answered as problems', async () => {
    expect(
      (await world.ask<Doc>('freight-desk', 'GET', '/v2/bookings?where=colour:eq:red')).body,
    ).toMatchObject({
      status: 400,
      detail: 'Booking has no field “colour”.',
    });
    expect((await world.ask<Doc>('customer-book', 'GET', '/api/companies?sort=x')).status).toBe(400);
  });
});

describe.each([
  ['customer-book', 'customer-book'],
  ['freight-desk', 'freight-desk'],
  ['fleet-log', 'fleet-log'],
  ['yard-planner', 'yard-planner'],
] as const)('the schema of %s in the demo', (_name, key) => {
  /** What our types mean in JSON Schema, as the stand-in's own document gives it. */
  const jsonType = ({ type }: Field) =>
    type === 'integer' || type === 'boolean'
      ? type
      : type === 'multichoice' || type === 'list'
        ? 'array'
        : 'string';

  test('agrees with the OpenAPI 3.1 document that the system publishes', async () => {
    const { body: openApi } = await world.ask<{
      openapi: string;
      components: { schemas: Record<string, Doc> };
    }>(key, 'GET', '/openapi.json');
    expect(openApi.openapi).toMatch(/^3\.1\./);
    const { body: systems } = await world.api<SystemView[]>('GET', '/systems');
    const system = systems.find((each) => each.key === key);
    for (const type of system?.recordTypes ?? []) {
      const schema = openApi.components.schemas[type.name];
      const published = flatten(schema);
      const ours = leafFields(type.fields).map(({ path, field }) => [path, jsonType(field), field.maxLength]);
      expect(ours).toEqual(
        expect.arrayContaining(published.map(([path, kind, length]) => [path, kind, length])),
      );
      expect(ours).toHaveLength(published.length);
    }
  });
});

function flatten(schema: Doc | undefined, prefix = ''): [string, unknown, unknown][] {
  const properties = (schema?.['properties'] ?? {}) as Record<string, Doc>;
  return Object.entries(properties).flatMap(([name, property]): [string, unknown, unknown][] =>
    property['type'] === 'object'
      ? flatten(property, `${prefix}${name}.`)
      : [[prefix + name, property['type'], property['maxLength']]],
  );
}

test('events that our side could not take at first are delivered again, in order', async () => {
  await world.database.query('ALTER TABLE inbox RENAME TO inbox_away');
  await world.changeCompany('C-1030', { phone: '01632 960 901' });
  await world.changeCompany('C-1030', { phone: '01632 960 902' });
  await new Promise((done) => setTimeout(done, 700));
  await world.database.query('ALTER TABLE inbox_away RENAME TO inbox');
  const runs = await until('both events', async () => {
    const found = (await world.runs('search=C-1030')).filter(({ ref }) => ref?.id === 'C-1030');
    return found.length === 2 && found.every(({ state }) => state !== 'waiting') && found;
  });
  const phones = await Promise.all(
    runs.toReversed().map(async ({ id }) => (await world.run(id)).event?.record['phone']),
  );
  expect(phones).toEqual(['01632 960 901', '01632 960 902']);
});

test('a sender comes again when the receiver says so, not before and however often, and in order', async () => {
  const came: { readonly at: number; readonly phone: unknown }[] = [];
  let refusals = 2;
  const receiver = createServer((request, response) => {
    void (async () => {
      const { data } = (await json(request)) as { data?: { record?: Record<string, unknown> } };
      // What rules write because of it is told as well.
      const isIt = data?.record?.['id'] === 'C-1031';
      if (isIt) came.push({ at: performance.now(), phone: data.record?.['phone'] });
      if (isIt && refusals-- > 0) response.writeHead(503, { 'retry-after': '1' }).end();
      else response.writeHead(204).end();
    })();
  });
  await new Promise<void>((done) => receiver.listen(0, '127.0.0.1', done));
  const { port } = receiver.address() as AddressInfo;
  try {
    const url = `http://127.0.0.1:${port}/`;
    const { status } = await world.ask('customer-book', 'PUT', '/webhooks', {
      url,
      secret: `whsec_${Buffer.from('any secret will do').toString('base64')}`,
    });
    expect(status).toBe(204);
    await world.changeCompany('C-1031', { phone: '01632 960 911' });
    await world.changeCompany('C-1031', { phone: '01632 960 912' });
    await until('both to be taken', () => Promise.resolve(came.length >= 4));
    expect(came.map(({ phone }) => phone)).toEqual([
      '01632 960 911',
      '01632 960 911',
      '01632 960 911',
      '01632 960 912',
    ]);
    const [first, second, third] = came.map(({ at }) => at);
    for (const pause of [(second ?? 0) - (first ?? 0), (third ?? 0) - (second ?? 0)])
      expect(pause).toBeGreaterThan(990);
  } finally {
    receiver.close();
  }
});
