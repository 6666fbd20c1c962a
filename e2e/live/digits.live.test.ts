import { World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start({ ROLE: 'api' });
});
afterAll(() => world.stop());

const sent = (path: string, body: string) =>
  world.send<{ id: string; detail: string }>('POST', path, body, 'application/json');

test('numbers of a sample keep their digits from the request to the database and back', async () => {
  const record = `{"id": "C-1001", "name": "North Skerry", "size": 12345678901234567890, "share": 0.12345678901234567890}`;
  const body = `{"name": "Many digits", "note": "", "records": [], "event": {"id": "e1", "source": "/customer-book",
    "kind": "updated", "ref": {"system": "customer-book", "recordType": "company", "id": "C-1001"},
    "time": "2026-03-09T09:00:00Z", "record": ${record}, "changed": ["size"]}}`;
  const made = await sent('/samples', body);
  expect(made.status).toBe(201);
  const kept = await world.api<{ event: { record: object } }>('GET', `/samples/${made.body.id}`);
  expect(kept.body.event.record).toMatchObject({
    size: { $number: '12345678901234567890' },
    share: { $number: '0.12345678901234567890' },
  });
});

test.each([
  ['{"a": 1,}', 'The body is not JSON'],
  ['['.repeat(5000) + ']'.repeat(5000), 'nested'],
  ['{"name": 1', 'The body is not JSON'],
])('a body that is no JSON is refused with the reason: %#', async (body, because) => {
  const { status, body: told } = await sent('/rules', body);
  expect(status).toBe(400);
  expect(told.detail).toContain(because);
});
