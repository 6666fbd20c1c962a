import * as fc from 'fast-check';
import { Turns } from './turns';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

test('those that meet at a record come one after the other, the others at the same time', async () => {
  const turns = new Turns();
  const seen: string[] = [];
  const work = (name: string, keys: string[]) =>
    turns.inTurn(keys, async () => {
      seen.push(`${name} begins`);
      await pause(5);
      seen.push(`${name} ends`);
    });
  await Promise.all([work('a', ['x']), work('b', ['x']), work('c', ['y'])]);
  expect(seen.indexOf('a ends')).toBeLessThan(seen.indexOf('b begins'));
  expect(seen.indexOf('c begins')).toBeLessThan(seen.indexOf('a ends'));
});

test('work that fails gives its turn on', async () => {
  const turns = new Turns();
  await expect(turns.inTurn(['x'], () => Promise.reject(new Error('no')))).rejects.toThrow('no');
  expect(await turns.inTurn(['x'], () => Promise.resolve('done'))).toBe('done');
});

test('nobody waits for ever and no two hold the same record, whatever records they want in whatever order', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 4 }), { maxLength: 20 }),
      async (wanted) => {
        const turns = new Turns();
        const held = new Set<string>();
        let done = 0;
        await Promise.all(
          wanted.map((keys) =>
            turns.inTurn(keys, async () => {
              for (const key of new Set(keys)) {
                expect(held.has(key)).toBe(false);
                held.add(key);
              }
              await pause(0);
              for (const key of keys) held.delete(key);
              done++;
            }),
          ),
        );
        expect(done).toBe(wanted.length);
      },
    ),
    { numRuns: 50 },
  );
});
