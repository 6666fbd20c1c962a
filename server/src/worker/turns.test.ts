import * as fc from 'fast-check';
import { Turns } from './turns';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

test('those that need a record alone come one after the other, those at other records at the same time', async () => {
  const turns = new Turns();
  const seen: string[] = [];
  const work = (name: string, keys: string[]) =>
    turns.alone(keys, async () => {
      seen.push(`${name} begins`);
      await pause(5);
      seen.push(`${name} ends`);
    });
  await Promise.all([work('a', ['x']), work('b', ['x']), work('c', ['y'])]);
  expect(seen.indexOf('a ends')).toBeLessThan(seen.indexOf('b begins'));
  expect(seen.indexOf('c begins')).toBeLessThan(seen.indexOf('a ends'));
});

test('those that send beside each other do not wait for each other', async () => {
  const turns = new Turns();
  let met: () => void = () => undefined;
  const meeting = new Promise<void>((done) => (met = done));
  await Promise.all([turns.beside(['x'], () => meeting), turns.beside(['x'], async () => met())]);
});

test('whoever comes while somebody has the record alone waits, and whoever needs it alone waits for those who are there', async () => {
  const turns = new Turns();
  const seen: string[] = [];
  const work = (name: string) => async () => {
    seen.push(`${name} begins`);
    await pause(5);
    seen.push(`${name} ends`);
  };
  await Promise.all([
    turns.beside(['x'], work('first')),
    turns.alone(['x'], work('alone')),
    turns.beside(['x'], work('last')),
  ]);
  expect(seen).toEqual([
    'first begins',
    'first ends',
    'alone begins',
    'alone ends',
    'last begins',
    'last ends',
  ]);
});

test('work that fails gives its turn on', async () => {
  const turns = new Turns();
  await expect(turns.alone(['x'], () => Promise.reject(new Error('no')))).rejects.toThrow('no');
  await expect(turns.beside(['x'], () => Promise.reject(new Error('no')))).rejects.toThrow('no');
  expect(await turns.alone(['x'], () => Promise.resolve('done'))).toBe('done');
});

test('nobody waits for ever and nobody is beside one who has a record alone, whatever records they want in whatever order', async () => {
  const wish = fc.record({
    alone: fc.boolean(),
    keys: fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 4 }),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(wish, { maxLength: 20 }), async (wishes) => {
      const turns = new Turns();
      const alone = new Set<string>();
      const there = new Map<string, number>();
      let done = 0;
      const come = (key: string, by: number) => there.set(key, (there.get(key) ?? 0) + by);
      await Promise.all(
        wishes.map((wanted) => {
          const keys = [...new Set(wanted.keys)];
          const work = async () => {
            for (const key of keys) {
              expect(alone.has(key)).toBe(false);
              if (wanted.alone) expect(there.get(key) ?? 0).toBe(0);
              if (wanted.alone) alone.add(key);
              come(key, 1);
            }
            await pause(0);
            for (const key of keys) {
              alone.delete(key);
              come(key, -1);
            }
            done++;
          };
          return wanted.alone ? turns.alone(wanted.keys, work) : turns.beside(wanted.keys, work);
        }),
      );
      expect(done).toBe(wishes.length);
      // Nothing is kept of those who left.
      expect(turns.size).toBe(0);
    }),
    { numRuns: 50 },
  );
});
