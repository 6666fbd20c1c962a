import { FakeResponse, FakeServer } from '../testing/app';
import { ApiProblem, ask } from './client';

const problemOf = async (work: Promise<unknown>) => {
  const thrown: unknown = await work.catch((error: unknown) => error);
  if (!(thrown instanceof ApiProblem)) throw new Error('it did not fail as the server fails');
  return thrown.problem;
};

test('an answer is what the server says, and an empty one is nothing', async () => {
  new FakeServer({ 'GET /one': { a: 1 }, 'GET /none': new FakeResponse(204, '') });
  expect(await ask('/one')).toEqual({ a: 1 });
  expect(await ask('/none')).toBeUndefined();
});

test('a change carries its body and the revision that it was made for', async () => {
  const server = new FakeServer({ 'PUT /rules/r/draft': {} });
  await ask('/rules/r/draft', { method: 'PUT', body: { name: 'x' }, ifMatch: 7 });
  expect(server.asked).toEqual([
    { method: 'PUT', path: '/rules/r/draft', body: { name: 'x' }, ifMatch: '"7"' },
  ]);
});

test('a problem of the server is told as it says', async () => {
  const problem = { status: 409, title: 'In use', detail: 'The table is read by “A”.' };
  new FakeServer({ 'DELETE /tables/t': new FakeResponse(409, problem) });
  expect(await problemOf(ask('/tables/t', { method: 'DELETE' }))).toEqual(problem);
});

test.each([
  ['a page of a proxy', 502, '<html>bad gateway</html>'],
  ['a page in the place of an answer', 200, '<html>Sign in to the network</html>'],
  ['JSON that is no problem of ours', 503, { error: 'down' }],
  ['half an answer', 200, '{"a": '],
])('%s is a problem with a sentence', async (_name, status, body) => {
  new FakeServer({ 'GET /x': new FakeResponse(status, body) });
  const problem = await problemOf(ask('/x'));
  expect(problem.status).toBe(status);
  expect(problem.detail).toContain(`answered ${status} with what is no answer of ours`);
});

test('no answer at all says that the server does not answer', async () => {
  globalThis.fetch = () => Promise.reject(new TypeError('network'));
  expect(await problemOf(ask('/x'))).toMatchObject({ status: 0, title: 'No answer' });
});
